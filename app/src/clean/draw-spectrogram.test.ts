// @vitest-environment happy-dom
import { afterEach, describe, expect, it, vi } from 'vitest'
import { SHEETS } from '../plot/inks'
import { hzToX } from '../plot/ruler'
import { recorder } from '../testing/recorder'
import {
  COLUMNS,
  drawOver,
  drawSpectrogram,
  inkImage,
  ROWS,
  type SpectrogramPicture,
} from './draw-spectrogram'

const [WIDTH, HEIGHT] = [600, 300]
const { accent, warning } = SHEETS.light
afterEach(() => vi.restoreAllMocks())

/** The pixels of a picture, by a canvas that keeps what is put on it. */
function pixels(change: Partial<SpectrogramPicture>): (row: number, column: number) => number[] {
  let put: { data: Uint8ClampedArray } | null = null
  const context = {
    createImageData: (w: number, h: number) => ({ data: new Uint8ClampedArray(4 * w * h) }),
    putImageData: (image: { data: Uint8ClampedArray }) => {
      put = image
    },
  }
  vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(context as never)
  const levels = new Float32Array(ROWS * COLUMNS).fill(-100)
  const edgesHz = Float64Array.from({ length: COLUMNS + 1 }, (_, i) => 20 * 1000 ** (i / COLUMNS))
  inkImage({ levels, before: null, edgesHz, rangeDb: 60, tilt: 0, ...change }, SHEETS.light)
  return (row, column) => {
    const at = 4 * (row * COLUMNS + column)
    return [...(put?.data.subarray(at, at + 4) ?? [])]
  }
}
const field = (value: (row: number, column: number) => number) =>
  Float32Array.from({ length: ROWS * COLUMNS }, (_, i) =>
    value(Math.floor(i / COLUMNS), i % COLUMNS),
  )

describe('levels as ink', () => {
  it('are dense at the loudest, bare beyond the range, between them by level', () => {
    const at = pixels({ levels: field((row) => (row === 0 ? -10 : row === 1 ? -40 : -80)) })
    expect(at(0, 5)[3]).toBe(255)
    expect(at(1, 5)[3]).toBeGreaterThan(40)
    expect(at(1, 5)[3]).toBeLessThan(200)
    expect(at(2, 5)[3]).toBe(0)
  })

  it('are lifted by a tilt', () => {
    const levels = field(() => -40)
    const at = pixels({ levels, tilt: 4.5 })
    expect(at(0, COLUMNS - 1)[3]).toBe(255)
    expect(at(0, 10)[3]).toBeLessThan(100)
  })

  it('show what a chain took in a second ink, as dense as it was', () => {
    const before = field(() => -20)
    const levels = field((_, column) => (column < 100 ? -20 : column < 200 ? -26 : -40))
    const at = pixels({ levels, before })
    const [kept, some, all] = [at(0, 50), at(0, 150), at(0, 300)]
    expect([kept, some, all].map((p) => p[3])).toEqual([255, 255, 255])
    const red = Number.parseInt(warning.slice(1, 3), 16)
    expect(all[0]).toBe(red)
    expect(kept[0]).not.toBe(red)
    expect(some[0]).toBeGreaterThan(Math.min(kept[0], red))
    expect(some[0]).toBeLessThan(Math.max(kept[0], red))
  })
})

describe('the picture on its plot', () => {
  it('lies where it is looked at, with marks of seconds at its side', () => {
    const { surface, drawing } = recorder(WIDTH, HEIGHT)
    const image = {} as HTMLCanvasElement
    drawSpectrogram(surface, image, { fromSeconds: 2, toSeconds: 12 }, [-0.5, 0, 1.5, 1])
    expect(drawing.images).toEqual([{ x: -300, y: 0, width: 1200 }])
    const marks = drawing.strokes.map((s) => s.points[0][1])
    const apart = marks.slice(1).map((y, i) => y - marks[i])
    for (const d of apart) expect(d).toBeGreaterThanOrEqual(11)
    expect(recorderOf(null).images).toHaveLength(0)
  })

  it('has the plumb line with harmonics, the region, and where it plays', () => {
    const over = (change: object) => {
      const { surface, drawing } = recorder(WIDTH, HEIGHT)
      const toX = (hz: number) => hzToX(hz, WIDTH) / WIDTH
      drawOver(surface, { hz: null, toX, played: null, region: null, ...change })
      return drawing
    }
    const plumbed = over({ hz: 3000 }).strokes
    expect(plumbed.map((s) => Math.round(s.points[0][0] - 0.5))).toEqual(
      [1, 2, 3, 4, 5, 6].map((k) => Math.round(hzToX(3000 * k, WIDTH))),
    )
    expect(plumbed[0].dash).not.toEqual(plumbed[1].dash)
    const [box] = over({ region: [0.25, 0.5, 0.5, 1] }).boxes
    expect(box).toMatchObject({ x: 150, y: 150, width: 150, height: 150 })
    const [played] = over({ played: 0.5 }).strokes
    expect(played.ink).toBe(warning)
    expect(played.points[0][1]).toBe(150.5)
    expect(over({ played: 1.2 }).strokes).toHaveLength(0)
    expect(over({ hz: 3000 }).strokes.every((s) => s.ink === accent)).toBe(true)
  })
})

function recorderOf(image: HTMLCanvasElement | null) {
  const { surface, drawing } = recorder(WIDTH, HEIGHT)
  drawSpectrogram(surface, image, { fromSeconds: 0, toSeconds: 10 }, [0, 0, 1, 1])
  return drawing
}
