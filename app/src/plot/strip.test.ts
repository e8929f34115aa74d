import { makeBands } from '@sober-prism/core/spectrum'
import { describe, expect, it } from 'vitest'
import { heightAt, recorder } from '../testing/recorder'
import { SHEETS } from './inks'
import { hzToX } from './ruler'
import { bandAt, drawPlumb, drawStrip, type StripPicture } from './strip'

const [WIDTH, HEIGHT] = [600, 40]
const BANDS = makeBands('sixth')
const { density, ink, accent } = SHEETS.light
const loudAt = (from: number, to: number) =>
  BANDS.map(({ hz }) => (hz >= from && hz <= to ? -30 : -90))
const strip = (change: Partial<StripPicture> = {}): StripPicture => ({
  bands: BANDS,
  levels: loudAt(300, 600),
  topDb: -30,
  covered: [],
  winnable: [],
  open: false,
  ...change,
})
const drawn = (
  change: Partial<StripPicture> = {},
  live: { levels: ArrayLike<number> } | null = null,
  height = HEIGHT,
) => {
  const { surface, drawing } = recorder(WIDTH, height)
  drawStrip(surface, strip(change), live)
  return drawing
}
/** How dense the ink is at a frequency, 0 to 255. */
const densityAt = (drawing: ReturnType<typeof drawn>, hz: number) => {
  const [stops] = [...drawing.gradients.values()]
  const at = (hzToX(hz, WIDTH) - 10) / (WIDTH - 22)
  const [, colour] = stops.reduce((best, stop) =>
    Math.abs(stop[0] - at) < Math.abs(best[0] - at) ? stop : best,
  )
  expect(colour.startsWith(density)).toBe(true)
  return Number.parseInt(colour.slice(7), 16)
}

describe('a strip', () => {
  it('has full ink where the track is loud, and none far below', () => {
    const drawing = drawn()
    expect(densityAt(drawing, 420)).toBeGreaterThan(200)
    expect(densityAt(drawing, 80)).toBe(0)
    expect(densityAt(drawing, 5000)).toBe(0)
  })

  it('gets denser with level, by even steps of decibels', () => {
    const at = (db: number) => densityAt(drawn({ levels: BANDS.map(() => db) }), 1000)
    const [a, b, c] = [at(-40), at(-50), at(-60)]
    expect(a).toBeGreaterThan(b)
    expect(b).toBeGreaterThan(c)
    expect(c).toBeGreaterThan(0)
  })

  it('is inked anew only when its levels, its scale or its sheet change', () => {
    const { surface, drawing } = recorder(WIDTH, HEIGHT)
    const same = strip()
    const inks = () => drawing.gradients.size
    drawStrip(surface, same, null)
    drawStrip(surface, { ...same }, { levels: loudAt(1000, 1200) })
    expect(inks()).toBe(1)
    drawStrip(surface, { ...same, topDb: -20 }, null)
    drawStrip(surface, { ...same, levels: loudAt(100, 200) }, null)
    drawStrip({ ...surface, sheet: SHEETS.night }, same, null)
    expect(inks()).toBe(4)
    const last = drawing.gradients.get('gradient 3') ?? []
    expect(last.every(([, colour]) => colour.startsWith(SHEETS.night.density))).toBe(true)
  })

  it('is blank where nothing is measured', () => {
    const drawing = drawn({ levels: null })
    expect(drawing.fills).toHaveLength(0)
    expect(drawing.strokes).toHaveLength(0)
  })

  it('hatches only the places that a move could win back', () => {
    const place = { fromHz: 400, toHz: 800 } as StripPicture['winnable'][number]
    const plain = drawn()
    const hatched = drawn({ winnable: [place] })
    const more = hatched.strokes.length - plain.strokes.length
    expect(more).toBeGreaterThan(0)
    const [left, right] = [hzToX(400, WIDTH) - 2, hzToX(800, WIDTH) + 2]
    for (const { points } of hatched.strokes) {
      for (const [x] of points) {
        expect(x).toBeGreaterThanOrEqual(left)
        expect(x).toBeLessThanOrEqual(right)
      }
    }
  })

  it('lies under a light wash where company covers it, soft at its ends', () => {
    const region = { fromHz: 200, toHz: 2000 } as StripPicture['covered'][number]
    const drawing = drawn({ covered: [region] })
    const [wash] = drawing.boxes
    expect(wash.x).toBeCloseTo(hzToX(200, WIDTH), 3)
    expect(wash.x + wash.width).toBeCloseTo(hzToX(2000, WIDTH), 3)
    const stops = drawing.gradients.get(wash.ink) ?? []
    expect(stops[0][1].endsWith('00')).toBe(true)
    expect(stops[1][1].endsWith('00')).toBe(false)
  })

  it('opens into a curve with a scale', () => {
    const drawing = drawn({ open: true }, null, 100)
    const [curve] = drawing.strokes.filter((s) => s.ink === ink && s.points.length > 50)
    expect(heightAt(curve, hzToX(420, WIDTH))).toBeLessThan(6)
    expect(heightAt(curve, hzToX(60, WIDTH))).toBeGreaterThan(94)
    expect(drawing.texts.length).toBeGreaterThan(1)
    expect(drawing.texts.every((t) => /^−\d+$/.test(t.text))).toBe(true)
  })

  it('has a line of what sounds now', () => {
    const live = drawn({}, { levels: loudAt(1000, 1200) })
    const added = live.strokes.length - drawn().strokes.length
    expect(added).toBeGreaterThan(0)
  })
})

describe('the plumb line', () => {
  it('stands at its frequency with its reading beside it, on the side where there is room', () => {
    const at = (hz: number, reading: number | null, against: number | null = null) => {
      const { surface, drawing } = recorder(WIDTH, HEIGHT)
      drawPlumb(surface, hz, reading, 'plumb', against)
      return drawing
    }
    const low = at(100, -12.3)
    expect(low.strokes[0].points[0][0]).toBe(Math.round(hzToX(100, WIDTH)) + 0.5)
    expect(low.strokes[0].ink).toBe(accent)
    expect(low.texts[0].text).toBe('−12.3')
    expect(low.texts[0].x).toBeGreaterThan(hzToX(100, WIDTH))
    const high = at(19_000, -12.3)
    expect(high.texts[0].x).toBeLessThan(hzToX(19_000, WIDTH))
    expect(at(100, null).texts).toHaveLength(0)
    expect(at(100, -12, 2.5).texts[0].text).toContain('(+2.5)')
  })

  it('reads the band in which a frequency lies', () => {
    for (const [i, band] of BANDS.entries()) expect(bandAt(BANDS, band.hz)).toBe(i)
    expect(bandAt(BANDS, 1)).toBe(0)
    expect(bandAt(BANDS, 1e6)).toBe(BANDS.length - 1)
  })
})
