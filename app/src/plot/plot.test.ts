import { type EqBand, newBand, withNeedles } from '@sober-prism/core/filters'
import { makeBands } from '@sober-prism/core/spectrum'
import { type ChainBand, newChainBand, newTreatment } from '@sober-prism/core/treatments'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bandLetter, layOutMarks } from '../sheet/layers/survey-mark'
import { CURVE_HZ, curveOf } from '../sheet/read-curve'
import { dbToY, sheetLines, toHz, toX, yToDb } from '../sheet/sheet-scale'
import { SHEETS } from './inks'
import {
  figuresIn,
  hzToX,
  movedSpan,
  PLOT_LEFT,
  PLOT_RIGHT,
  prismColour,
  ticksIn,
  WHOLE_RULER,
  xToHz,
  zoomedSpan,
} from './ruler'
import { bandAt } from './strip'

const move = (change: Partial<EqBand>, on = true): ChainBand => ({
  id: crypto.randomUUID(),
  on,
  reason: '',
  evidence: null,
  band: { ...newBand(change.type ?? 'bell', 1000), ...change },
})

/** Contrast of two colours after WCAG 2.1. */
function contrast(a: string, b: string): number {
  const luminance = (hex: string) => {
    const [r, g, bl] = [1, 3, 5].map((i) => {
      const v = Number.parseInt(hex.slice(i, i + 2), 16) / 255
      return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
    })
    return 0.2126 * r + 0.7152 * g + 0.0722 * bl
  }
  const [high, low] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (high + 0.05) / (low + 0.05)
}

describe('figures on the ruler', () => {
  const widthOf = (text: string) => 8.5 * text.length
  const ends = (width: number) =>
    figuresIn(width, widthOf)
      .map(({ text, x, align }) => {
        const wide = widthOf(text)
        const from = align === 'left' ? x : align === 'right' ? x - wide : x - wide / 2
        return [from, from + wide] as const
      })
      .sort((a, b) => a[0] - b[0])

  it('never touch, whatever the width, and both ends always stand', () => {
    fc.assert(
      fc.property(fc.integer({ min: 150, max: 3000 }), (width) => {
        const placed = ends(width)
        for (let i = 1; i < placed.length; i++) {
          expect(placed[i][0]).toBeGreaterThan(placed[i - 1][1])
        }
        const texts = figuresIn(width, widthOf).map((f) => f.text)
        expect(texts).toEqual(expect.arrayContaining(['20', '20k']))
      }),
    )
  })

  it('are all there where there is room', () => {
    expect(figuresIn(480, widthOf)).toHaveLength(10)
    expect(figuresIn(230, widthOf).length).toBeLessThan(10)
  })
})

describe('the ruler', () => {
  it('leads from frequency to place and back at any width', () => {
    const hz = fc.double({ min: Math.log(20), max: Math.log(20000), noNaN: true }).map(Math.exp)
    fc.assert(
      fc.property(hz, fc.integer({ min: 120, max: 4000 }), (f, width) => {
        expect(xToHz(hzToX(f, width), width) / f).toBeCloseTo(1, 9)
      }),
    )
  })

  it('holds places beside it at its ends, and spaces octaves alike', () => {
    expect([xToHz(-50, 700), xToHz(2000, 700)].map(Math.round)).toEqual([20, 20000])
    expect([hzToX(20, 700), hzToX(20000, 700)]).toEqual([PLOT_LEFT, 700 - PLOT_RIGHT])
    const octaves = [100, 200, 400, 800].map((f) => hzToX(f, 700))
    expect(octaves[1] - octaves[0]).toBeCloseTo(octaves[3] - octaves[2], 9)
  })

  it('is zoomed about a place that stays, never beyond its ends, and always has figures', () => {
    const place = fc.double({ min: Math.log(25), max: Math.log(16_000), noNaN: true }).map(Math.exp)
    const steps = fc.array(fc.double({ min: 0.3, max: 3, noNaN: true }), { maxLength: 12 })
    fc.assert(
      fc.property(place, steps, fc.double({ min: -3, max: 3, noNaN: true }), (hz, ratios, by) => {
        let span = WHOLE_RULER
        for (const ratio of ratios) {
          const next = zoomedSpan(span, ratio, hz)
          const isHeld = next.lowHz < 20.001 || next.highHz > 19_999
          if (!isHeld) expect(hzToX(hz, 700, next)).toBeCloseTo(hzToX(hz, 700, span), 6)
          span = next
        }
        const moved = movedSpan(span, by)
        for (const { lowHz, highHz } of [span, moved]) {
          expect(lowHz).toBeGreaterThan(19.999)
          expect(highHz).toBeLessThan(20_000.001)
          expect(Math.log2(highHz / lowHz)).toBeGreaterThan(1 / 3 - 1e-9)
        }
        expect(Math.log2(moved.highHz / moved.lowHz)).toBeCloseTo(
          Math.log2(span.highHz / span.lowHz),
          9,
        )
        const figures = figuresIn(700, (text) => 8.5 * text.length, moved)
        expect(figures.length).toBeGreaterThanOrEqual(2)
        for (const f of figures) expect(f.hz >= moved.lowHz && f.hz <= moved.highHz).toBe(true)
      }),
    )
    expect(zoomedSpan(zoomedSpan(WHOLE_RULER, 0.2, 1000), 9)).toBe(WHOLE_RULER)
  })

  it('has ticks in order within its ends, and a hue that only rises', () => {
    const ticks = ticksIn(WHOLE_RULER)
    expect([...ticks].sort((a, b) => a - b)).toEqual(ticks)
    expect([ticks[0], ticks[ticks.length - 1]]).toEqual([20, 20000])
    const hues = [0, 0.3, 0.6, 1].map((s) => Number(/hsl\((\d+)/.exec(prismColour(s, false))?.[1]))
    expect([...hues].sort((a, b) => a - b)).toEqual(hues)
  })

  it('names the band in which a frequency lies', () => {
    const bands = makeBands('sixth')
    for (const hz of [23, 440, 1010, 12345]) {
      const { fromHz, toHz: top } = bands[bandAt(bands, hz)]
      expect(hz >= fromHz && hz < top).toBe(true)
    }
    expect(bandAt(bands, 5)).toBe(0)
    expect(bandAt(bands, 30000)).toBe(bands.length - 1)
  })
})

describe('the sheets', () => {
  it.each(['light', 'night'] as const)('have ink that can be read, %s', (name) => {
    const { paper, paperDeep, card, ink, inkSoft, accent, onAccent, warning } = SHEETS[name]
    for (const ground of [paper, paperDeep, card]) {
      for (const text of [ink, inkSoft, accent, warning]) {
        expect(contrast(text, ground)).toBeGreaterThanOrEqual(4.5)
      }
    }
    expect(contrast(onAccent, accent)).toBeGreaterThanOrEqual(4.5)
  })
})

describe('the equaliser sheet', () => {
  const scale = { width: 740, height: 220, topDb: 12, bottomDb: -12 }

  it('leads from level to place and back', () => {
    for (const db of [-12, -3.5, 0, 6, 12])
      expect(yToDb(dbToY(db, scale), scale)).toBeCloseTo(db, 9)
    expect(toHz(toX(777, scale), scale)).toBeCloseTo(777, 6)
    expect(dbToY(6, scale)).toBeLessThan(dbToY(-6, scale))
  })

  it('has few lines, always one at zero, from a fine scale to a deep one', () => {
    for (const [topDb, bottomDb] of [
      [3, -3],
      [6, -6],
      [12, -12],
      [24, -24],
      [24, -120],
    ]) {
      const lines = sheetLines({ ...scale, topDb, bottomDb })
      expect(lines).toContain(0)
      expect(lines.length).toBeGreaterThanOrEqual(3)
      expect(lines.length).toBeLessThanOrEqual(9)
    }
  })

  it('stands a mark’s foot on zero and its dot on the band’s own curve', () => {
    const moves = [move({ hz: 2000, db: -6, q: 2 }), move({ type: 'low-cut', hz: 80 })]
    const [bell, cut] = layOutMarks(moves, ['a', 'b'], scale, 48000)
    expect(bell.x).toBeCloseTo(toX(2000, scale), 9)
    expect(yToDb(bell.curveY, scale)).toBeCloseTo(-6, 1)
    expect(yToDb(bell.zeroY, scale)).toBeCloseTo(0, 9)
    expect(bell.bracket && bell.bracket.fromX < bell.x && bell.x < bell.bracket.toX).toBe(true)
    // A cut has no gain to stand on and no width.
    expect([yToDb(cut.curveY, scale), cut.bracket]).toEqual([0, null])
  })

  it('keeps flags on the sheet, however high the gain', () => {
    const [mark] = layOutMarks([move({ db: 24 })], ['a'], scale, 48000)
    expect(mark.flagY).toBeGreaterThan(0)
    expect(mark.curveY).toBeGreaterThanOrEqual(0)
  })

  it('letters moves a to z, then aa', () => {
    expect([0, 1, 25, 26, 27, 52].map(bandLetter)).toEqual(['a', 'b', 'z', 'aa', 'ab', 'ba'])
  })

  it('draws and reads the same curve', () => {
    const bands = [move({ db: -6, q: 3 }).band, move({ type: 'high-shelf', hz: 6000, db: 4 }).band]
    const chainBands = bands.map((band, i) => newChainBand(`${i}`, band))
    const params = { phase: 'minimum' as const, bands: chainBands }
    const curve = curveOf([newTreatment('equaliser', 'e', 'fit', params)], 48000)
    expect(curve.at(CURVE_HZ[240])).toBeCloseTo(curve.db[240], 9)
    expect(curve.at(1000)).toBeCloseTo(-6, 0)
  })

  it('reads a needle where it stands, however narrow it is', () => {
    const flat = {
      points: [
        { hz: 20, db: 0 },
        { hz: 20_000, db: 0 },
      ],
      joining: 'straight',
    } as const
    const base = newTreatment('drawn-curve', 'd', 'clean')
    for (const hz of [60, 1234, 9876]) {
      const points = withNeedles({ ...base.params, ...flat }, [hz], 20)
      const params = { ...base.params, ...flat, taps: 65_536, points }
      const curve = curveOf([{ ...base, params }], 48_000)
      expect(curve.hz.every((f, i) => i === 0 || f > curve.hz[i - 1])).toBe(true)
      expect(Math.min(...curve.db)).toBeLessThan(-60)
      const lowest = curve.hz[curve.db.indexOf(Math.min(...curve.db))]
      expect(Math.abs(lowest - hz)).toBeLessThan(10)
    }
    expect(curveOf([], 48_000).hz).toBe(CURVE_HZ)
  })
})
