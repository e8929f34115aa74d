/** One line of a figure: `[hz, value]` in order of frequency. */
export interface Line {
  readonly points: readonly (readonly [number, number])[]
  readonly style: 'solid' | 'dashed' | 'dotted'
}

const WIDTH = 760
const HEIGHT = 300
const LEFT = 52
const RIGHT = 14
const TOP = 34
const BOTTOM = 34
const TICKS = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000]
const DASHES = { solid: '', dashed: '7 4', dotted: '1.5 4' } as const

/** A figure over logarithmic frequency, as SVG. */
export function plotLog(
  title: string,
  unit: string,
  [low, high]: readonly [number, number],
  lines: readonly Line[],
): string {
  const x = (hz: number) => LEFT + (Math.log(hz / 20) / Math.log(1000)) * (WIDTH - LEFT - RIGHT)
  const y = (value: number) => TOP + (1 - (value - low) / (high - low)) * (HEIGHT - TOP - BOTTOM)
  const held = (value: number) => Math.max(low, Math.min(high, value))
  const steps = Array.from({ length: 5 }, (_, i) => low + ((high - low) * i) / 4)
  const grid = [
    ...TICKS.map(
      (hz) =>
        `<path d="M${x(hz).toFixed(1)} ${TOP}V${HEIGHT - BOTTOM}" stroke="#d6cdb8"/><text x="${x(hz).toFixed(1)}" y="${HEIGHT - 14}" text-anchor="middle">${hz >= 1000 ? `${hz / 1000}k` : hz}</text>`,
    ),
    ...steps.map(
      (v) =>
        `<path d="M${LEFT} ${y(v).toFixed(1)}H${WIDTH - RIGHT}" stroke="#d6cdb8"/><text x="${LEFT - 6}" y="${(y(v) + 4).toFixed(1)}" text-anchor="end">${Number(v.toFixed(1))}</text>`,
    ),
  ]
  const paths = lines.map(({ points, style }) => {
    const d = points
      .map(([hz, v], i) => `${i === 0 ? 'M' : 'L'}${x(hz).toFixed(1)} ${y(held(v)).toFixed(1)}`)
      .join('')
    const wide = style === 'dotted' ? 2.6 : 1.4
    const ink = style === 'dotted' ? '#0d5a61' : '#1f2429'
    return `<path d="${d}" fill="none" stroke="${ink}" stroke-width="${wide}" stroke-linecap="round" stroke-dasharray="${DASHES[style]}"/>`
  })
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" font-family="sans-serif" font-size="12" fill="#1f2429"><title>${title}</title><rect width="${WIDTH}" height="${HEIGHT}" fill="#f5f0e5"/><text x="${LEFT}" y="20">${title}, ${unit}</text>${grid.join('')}${paths.join('')}</svg>\n`
}
