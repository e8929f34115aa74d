/** The one frequency axis: every picture of a screen stands on it, aligned to the pixel. */
export const LOWEST_HZ = 20
export const HIGHEST_HZ = 20000
const SPAN = Math.log(HIGHEST_HZ / LOWEST_HZ)

/** Space left of 20 Hz on every plot, for meters and level labels; and right of 20 kHz. */
export const PLOT_LEFT = 10
export const PLOT_RIGHT = 12

/** Where a frequency stands on a plot `width` pixels wide. */
export function hzToX(hz: number, width: number): number {
  return PLOT_LEFT + (Math.log(hz / LOWEST_HZ) / SPAN) * (width - PLOT_LEFT - PLOT_RIGHT)
}

/** The frequency at a place on a plot, held within the ruler. */
export function xToHz(x: number, width: number): number {
  const share = (x - PLOT_LEFT) / (width - PLOT_LEFT - PLOT_RIGHT)
  return LOWEST_HZ * Math.exp(SPAN * Math.max(0, Math.min(1, share)))
}

/** Frequencies with a figure below the ruler, and the ticks between. */
export const FIGURES: readonly (readonly [number, string])[] = [
  [20, '20'],
  [50, '50'],
  [100, '100'],
  [200, '200'],
  [500, '500'],
  [1000, '1k'],
  [2000, '2k'],
  [5000, '5k'],
  [10000, '10k'],
  [20000, '20k'],
]
/** Which figures stand where there is no room for all of them. */
const FIRST_HZ = [LOWEST_HZ, HIGHEST_HZ, 1000, 100, 10_000, 200, 5000, 500, 2000, 50]
const FIGURE_GAP = 6

/** Figures that have room beside each other on a ruler of a width, with where they stand. */
export function figuresIn(
  width: number,
  widthOf: (text: string) => number,
): { readonly text: string; readonly x: number; readonly align: 'left' | 'center' | 'right' }[] {
  const taken: (readonly [number, number])[] = []
  return FIRST_HZ.flatMap((hz) => {
    const text = FIGURES.find(([f]) => f === hz)?.[1] ?? ''
    const wide = widthOf(text)
    const x = hzToX(hz, width)
    const align = hz === LOWEST_HZ ? 'left' : hz === HIGHEST_HZ ? 'right' : 'center'
    const from = align === 'left' ? x : align === 'right' ? x - wide : x - wide / 2
    const to = from + wide
    if (taken.some(([a, b]) => from < b + FIGURE_GAP && to > a - FIGURE_GAP)) return []
    taken.push([from, to])
    return [{ text, x, align }]
  })
}

export const TICKS: readonly number[] = [10, 100, 1000, 10000]
  .flatMap((decade) => [2, 3, 4, 5, 6, 7, 8, 9, 10].map((n) => n * decade))
  .filter((hz) => hz >= LOWEST_HZ && hz <= HIGHEST_HZ)

/** The prism: hue by place on the ruler, 0 to 1. The only hue in the app besides its two accents. */
export function prismColour(share: number, night: boolean): string {
  const hue = share * 285
  return `hsl(${hue.toFixed(0)} ${night ? '42% 58%' : '46% 45%'})`
}
