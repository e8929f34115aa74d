import { LOW_END_BANDS, type LowEndReading } from '@sober-prism/core/findings'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { SHEETS } from '../../plot/inks'
import { hzToX } from '../../plot/ruler'
import { heightAt, recorder } from '../../testing/recorder'
import { drawLowEnd } from './draw-low-end'
import { type DrawnLine, decimalsOf, drawReading, spanOfLines } from './draw-reading'

const [WIDTH, HEIGHT] = [500, 160]
const { accent, ink, inkSoft, line: lineInk, lineStrong } = SHEETS.light
const line = (style: DrawnLine['style'], values: number[], at: number[]): DrawnLine => ({
  style,
  values,
  at,
})

describe('a picture below the sheet', () => {
  const drawn = (time: readonly [number, number] | null = null) => {
    const { surface, drawing } = recorder(WIDTH, HEIGHT)
    const at = time ? [time[0], 0, time[1]] : [20, 1000, 20_000]
    const lines = [
      line('now', [0, 5, -5], at),
      line('other', [1, 1, 1], at),
      line('measured', [-9, -9, -9], at),
    ]
    drawReading(surface, { lines, span: [-10, 10], unit: 'ms', time })
    return drawing
  }

  it('has each line where its values stand, over the ruler', () => {
    const [now] = drawn().strokes.filter((s) => s.ink === accent)
    const bottom = HEIGHT - 4
    const y = (v: number) => 8 + ((10 - v) / 20) * (bottom - 8)
    expect(heightAt(now, hzToX(1000, WIDTH))).toBeCloseTo(y(5), 5)
    expect(heightAt(now, hzToX(20_000, WIDTH))).toBeCloseTo(y(-5), 5)
  })

  it('tells lines apart by ink and dashes', () => {
    const { strokes } = drawn()
    const curves = strokes.filter((s) => s.points.length === 3)
    expect(curves.map((s) => s.ink)).toEqual([accent, inkSoft, ink])
    expect(new Set(curves.map((s) => s.dash.join())).size).toBe(3)
  })

  it('has a zero line with the unit, and figures at round steps', () => {
    const drawing = drawn()
    expect(drawing.texts.filter((t) => t.text === '0 ms')).toHaveLength(1)
    expect(drawing.strokes.filter((s) => s.ink === lineStrong)).toHaveLength(1)
    const figures = drawing.texts.map((t) => Number.parseFloat(t.text.replace('−', '-')))
    const steps = figures.slice(1).map((v, i) => v - figures[i])
    for (const step of steps) expect(step).toBeCloseTo(steps[0], 6)
  })

  it('stands over time where that is asked, in seconds when it is long', () => {
    const short = drawn([-2, 8]).texts.map((t) => t.text)
    expect(short.filter((t) => t.endsWith(' ms')).length).toBeGreaterThan(2)
    const long = drawn([-20_000, 0])
    expect(long.texts.some((t) => t.text === '−10 s')).toBe(true)
    expect(long.strokes.filter((s) => s.ink === lineInk).length).toBeGreaterThan(2)
  })
})

describe('figures beside it', () => {
  it('tell neighbouring steps apart', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(1, 2, 2.5, 5, 10),
        fc.integer({ min: -2, max: 3 }),
        (round, decade) => {
          const step = round * 10 ** decade
          const decimals = decimalsOf(step)
          const shown = [1, 2, 3].map((n) => Number((n * step).toFixed(decimals)))
          expect(shown[0]).toBeCloseTo(step, 6)
          expect(shown[2] - shown[1]).toBeCloseTo(step, 6)
        },
      ),
    )
  })

  it('span all lines with room, and never less than asked', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -50, max: 50, noNaN: true }), { minLength: 1, maxLength: 20 }),
        fc.double({ min: 0.1, max: 20, noNaN: true }),
        (values, least) => {
          const [low, high] = spanOfLines([line('now', values, values)], least)
          expect(low).toBeLessThan(Math.min(0, ...values))
          expect(high).toBeGreaterThan(Math.max(0, ...values))
          expect(high - low).toBeGreaterThanOrEqual(least)
        },
      ),
    )
  })
})

describe('left against right in the low end', () => {
  it('is denser the less alike they are, low octaves below, and blank where nothing sounds', () => {
    const bands = LOW_END_BANDS.length
    const columns = 4
    const reading = (value: (column: number, band: number) => number) =>
      ({
        columns,
        correlation: Float32Array.from({ length: columns * bands }, (_, i) =>
          value(Math.floor(i / bands), i % bands),
        ),
      }) as unknown as LowEndReading
    const { surface, drawing } = recorder(WIDTH, HEIGHT)
    drawLowEnd(surface, {
      before: reading((c, b) => (c === 3 ? Number.NaN : b === 0 ? -1 : 1)),
      after: reading(() => 1),
    })
    const filled = drawing.boxes.filter((b) => b.ink === ink)
    // Three columns of the one that sound, all of the other.
    expect(filled).toHaveLength(3 * bands + columns * bands)
    const dense = filled.filter((b) => b.alpha === 1)
    expect(dense).toHaveLength(3)
    const upperLane = filled.slice(0, 3 * bands)
    const lowest = Math.max(...upperLane.map((b) => b.y))
    for (const box of dense) expect(box.y).toBeCloseTo(lowest, 5)
    expect(filled.filter((b) => b.alpha === 0)).toHaveLength(filled.length - 3)
  })
})
