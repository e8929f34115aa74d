import { newBand } from '@sober-prism/core/filters'
import { LEVEL_BANDS } from '@sober-prism/core/findings'
import { makeBands } from '@sober-prism/core/spectrum'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import type { Analysis } from '@sober-prism/engine'
import { describe, expect, it } from 'vitest'
import { SHEETS } from '../plot/inks'
import { hzToX } from '../plot/ruler'
import { heightAt, recorder } from '../testing/recorder'
import { drawSheet, levelToY, type SheetPicture } from './draw-sheet'
import { layOutMarks } from './layers/survey-mark'
import { curveOf } from './read-curve'
import { dbToY } from './sheet-scale'

const RATE = 48000
const [WIDTH, HEIGHT] = [600, 240]
const BANDS = makeBands('sixth')
const scale = { width: WIDTH, height: HEIGHT, topDb: 12, bottomDb: -12 }
const { ink, inkSoft, accent, warning, area, lineStrong } = SHEETS.light
const cut = newChainBand('a', { ...newBand('bell', 1000), db: -6, q: 2 })
const equaliser = newTreatment('equaliser', 'e', 'fit', { phase: 'minimum', bands: [cut] })

const picture = (change: Partial<SheetPicture> = {}): SheetPicture => ({
  scale,
  curve: curveOf([equaliser], RATE),
  chosenCurve: null,
  marks: layOutMarks([cut], ['a'], scale, RATE),
  pencil: [],
  chosenIds: [],
  levelBands: BANDS,
  levels: null,
  ghosts: [],
  topDb: -20,
  balance: null,
  ...change,
})
const drawn = (change: Partial<SheetPicture> = {}) => {
  const { surface, drawing } = recorder(WIDTH, HEIGHT)
  drawSheet(surface, picture(change))
  return drawing
}
const lines = (drawing: ReturnType<typeof drawn>, colour: string) =>
  drawing.strokes.filter((s) => s.ink === colour)

describe('the curve on the sheet', () => {
  it('stands where the filter really is, at every frequency', () => {
    const [curve] = lines(drawn(), ink).filter((s) => s.lineWidth === 2)
    const { at } = curveOf([equaliser], RATE)
    for (const hz of [50, 400, 900, 1000, 1100, 3000, 15_000]) {
      expect(heightAt(curve, hzToX(hz, WIDTH))).toBeCloseTo(dbToY(at(hz), scale), 0)
    }
  })

  it('has its zero line and steps with their figures', () => {
    const texts = drawn().texts.map((t) => t.text)
    expect(texts).toEqual(expect.arrayContaining(['0 dB', '+6', '−6', '+12', '−12']))
    const [zero] = lines(drawn(), lineStrong)
    expect(zero.points[0][1]).toBe(Math.round(dbToY(0, scale)) + 0.5)
  })

  it('has a flag with a letter, whose stem meets the curve; in the accent where it is chosen', () => {
    const stemX = hzToX(1000, WIDTH)
    const plain = drawn()
    expect(plain.texts.some((t) => t.text === 'a' && Math.abs(t.x - stemX) < 12)).toBe(true)
    const chosen = drawn({ chosenIds: ['a'] })
    const stem = lines(chosen, accent).find((s) => Math.abs(s.points[0][0] - stemX) < 1)
    expect(stem?.lineWidth).toBe(1.5)
    expect(lines(plain, accent)).toHaveLength(0)
  })

  it('dashes what is switched off', () => {
    const off = { ...cut, on: false }
    const drawing = drawn({ marks: layOutMarks([off], ['a'], scale, RATE) })
    expect(drawing.strokes.some((s) => s.ink === lineStrong && s.dash.length > 0)).toBe(true)
  })

  it('shows the chosen band alone as a hairline in the accent', () => {
    const own = curveOf([equaliser], RATE)
    const [line] = lines(drawn({ chosenCurve: own }), accent)
    expect(line.lineWidth).toBe(1)
    expect(heightAt(line, hzToX(1000, WIDTH))).toBeCloseTo(dbToY(-6, scale), 0)
  })
})

describe('what lies behind the curve', () => {
  const levels = BANDS.map(({ hz }) => (hz > 900 && hz < 1100 ? -20 : -60))

  it('is the level of the track as an area', () => {
    const [ground] = drawn({ levels }).fills.filter((f) => f.ink === area)
    expect(heightAt(ground, hzToX(1000, WIDTH))).toBeCloseTo(levelToY(-20, -20, HEIGHT), -1)
    expect(heightAt(ground, hzToX(100, WIDTH))).toBeCloseTo(levelToY(-60, -20, HEIGHT), 0)
  })

  it('are others as hairlines, told apart by dashes and named at their loudest place', () => {
    const ghosts = ['B', 'C'].map((name) => ({ name, levels }))
    const drawing = drawn({ ghosts })
    const dashed = lines(drawing, inkSoft).filter((s) => s.points.length === BANDS.length)
    expect(dashed).toHaveLength(2)
    expect(dashed[0].dash).not.toEqual(dashed[1].dash)
    const [name] = drawing.texts.filter((t) => t.text === 'B')
    expect(name.x).toBeCloseTo(hzToX(1000, WIDTH), -1)
  })

  it('are proposed moves in pencil, dashed and with a question mark', () => {
    const drawing = drawn({ pencil: [{ key: 'k', x: 300, y: 180 }] })
    expect(drawing.texts.some((t) => t.text === '?')).toBe(true)
    const [pencil] = lines(drawing, inkSoft).filter((s) => s.dash.length > 0)
    expect(pencil.points[1]).toEqual([300, 180])
  })

  it('is where the mix stands against its target, in warning only where it stands out', () => {
    const deviation = LEVEL_BANDS.map(({ hz }) => (hz > 200 && hz < 500 ? 5 : 0))
    const balance = {
      deviation,
      target: { tolerance: LEVEL_BANDS.map(() => 3) },
      regions: [{ fromHz: 200, toHz: 500 }],
    } as unknown as NonNullable<Analysis['balance']>
    const drawing = drawn({ balance })
    const bold = lines(drawing, warning)
    expect(bold.length).toBeGreaterThan(3)
    for (const { points } of bold) {
      expect(points[0][0]).toBeGreaterThan(hzToX(150, WIDTH))
      expect(points[1][0]).toBeLessThan(hzToX(520, WIDTH))
    }
    const within = lines(drawing, lineStrong).filter((s) => s.points.length > 2)
    expect(within.map((s) => Math.round(s.points[0][1]))).toEqual([
      Math.round(dbToY(3, scale)),
      Math.round(dbToY(-3, scale)),
    ])
  })
})
