import { TWELFTHS } from '@sober-prism/core/match'
import { describe, expect, it } from 'vitest'
import { SHEETS } from '../plot/inks'
import { hzToX } from '../plot/ruler'
import { heightAt, recorder } from '../testing/recorder'
import { drawMatch, type MatchPicture } from './draw-match'

const [WIDTH, HEIGHT] = [600, 300]
const { ink, inkSoft, warning, lineStrong, area, paper } = SHEETS.light
const settings = { mostBoostDb: 9, mostCutDb: 9 } as MatchPicture['settings']
const each = (value: (hz: number) => number) => TWELFTHS.map(({ hz }) => value(hz))
const profile = (value: (hz: number) => number, lufs = -20) =>
  ({
    loudness: { integratedLufs: lufs },
    twelfths: { meanDb: each(value), spreadDb: each(() => 3) },
  }) as unknown as NonNullable<MatchPicture['from']>

const drawn = (change: Partial<MatchPicture> = {}) => {
  const { surface, drawing } = recorder(WIDTH, HEIGHT)
  drawMatch(surface, {
    from: null,
    to: null,
    wantedDb: each((hz) => (hz > 1000 ? 3 : -3)),
    givenDb: each((hz) => (hz > 1000 ? 3 : -3)),
    weight: each(() => 1),
    settings,
    ...change,
  })
  return drawing
}
const curves = (drawing: ReturnType<typeof drawn>) =>
  drawing.strokes.filter((s) => s.points.length > 20)

describe('a correction', () => {
  it('stands dotted as it is wanted and in full ink as it is given', () => {
    const found = curves(drawn({ givenDb: each(() => 0) }))
    const wanted = found.find((s) => s.dash.length > 0)
    const given = found.find((s) => s.ink === ink && s.lineWidth === 1.75)
    if (!wanted || !given) throw new Error('A line is missing.')
    const [low, high] = [hzToX(100, WIDTH), hzToX(8000, WIDTH)]
    expect(heightAt(wanted, low)).toBeGreaterThan(heightAt(given, low) + 5)
    expect(heightAt(wanted, high)).toBeLessThan(heightAt(given, high) - 5)
    expect(heightAt(wanted, low) - heightAt(given, low)).toBeCloseTo(
      heightAt(given, high) - heightAt(wanted, high),
      3,
    )
  })

  it('is not drawn as wanted where only noise is', () => {
    const weight = each((hz) => (hz > 5000 ? 0 : 1))
    const wanted = curves(drawn({ weight })).find((s) => s.dash.length > 0)
    for (const [x] of wanted?.points ?? []) expect(x).toBeLessThanOrEqual(hzToX(5000, WIDTH))
  })

  it('leaves bars of what remains, up where more is wanted, in warning where it is much', () => {
    const remains = (db: number) =>
      drawn({ givenDb: each((hz) => (hz > 1000 ? 3 - db : -3)) }).boxes.filter(
        (b) => b.x > hzToX(1100, WIDTH),
      )
    const [much, little] = [remains(2), remains(1)]
    expect(much.every((b) => b.ink === warning)).toBe(true)
    expect(little.every((b) => b.ink === lineStrong)).toBe(true)
    expect(much[0].height).toBeGreaterThan(little[0].height)
    const [down] = remains(-2)
    expect(down.y).toBeGreaterThan(much[0].y)
  })

  it('has lines of its scale with their figures', () => {
    const texts = drawn().texts.map((t) => t.text)
    expect(texts).toEqual(expect.arrayContaining(['+3', '−3']))
    const wide = drawn({ wantedDb: each(() => 24), settings: { ...settings, mostBoostDb: 24 } })
    expect(wide.texts.map((t) => t.text)).toEqual(expect.arrayContaining(['+6', '−6']))
  })
})

describe('spectra above it', () => {
  it('stand at equal loudness: one as a line, the other as a band with its spread', () => {
    const drawing = drawn({
      from: profile(() => -40, -20),
      to: profile(() => -46, -26),
    })
    const [band] = drawing.fills.filter((f) => f.ink === area)
    expect(band.points.length).toBe(2 * TWELFTHS.length)
    const have = curves(drawing).find((s) => s.ink === ink)
    const want = curves(drawing).find((s) => s.ink === inkSoft && s.dash.length === 0)
    if (!have || !want) throw new Error('A spectrum is missing.')
    for (const hz of [100, 1000, 8000]) {
      expect(heightAt(want, hzToX(hz, WIDTH))).toBeCloseTo(heightAt(have, hzToX(hz, WIDTH)), 3)
    }
  })

  it('lie under paper where they are left alone', () => {
    const weight = each((hz) => (hz < 60 ? 0 : 1))
    const drawing = drawn({ from: profile(() => -40), to: profile(() => -40), weight })
    const veiled = drawing.boxes.filter((b) => b.ink === paper)
    expect(veiled.length).toBe(weight.filter((w) => w === 0).length)
    for (const b of veiled) {
      expect(b.alpha).toBeLessThan(1)
      expect(b.x).toBeLessThan(hzToX(65, WIDTH))
    }
  })
})
