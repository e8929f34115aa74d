import { newFollowBand, newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it } from 'vitest'
import { CURVE_HZ } from '../read-curve'
import { curveFor } from './follow-layer'

const RATE = 48000
const at = (curve: ArrayLike<number> | null, hz: number) => {
  if (!curve) throw new Error('Nothing is drawn.')
  let nearest = 0
  CURVE_HZ.forEach((f, i) => {
    if (Math.abs(Math.log(f / hz)) < Math.abs(Math.log(CURVE_HZ[nearest] / hz))) nearest = i
  })
  return curve[nearest]
}
const follow = (...bands: Parameters<typeof newFollowBand>[1][]) => {
  const empty = newTreatment('follow', 'f', 'fit')
  const made = bands.map((b, i) => newFollowBand(`b${i}`, b))
  return curveFor({ ...empty, params: { ...empty.params, bands: made } }, RATE)
}

describe('the hanging curve of bands that follow', () => {
  it('goes as far as each range, at its place, in its shape', () => {
    const { most } = follow({ hz: 300, q: 2, rangeDb: -6 }, { hz: 4000, q: 2, rangeDb: 3 })
    expect(at(most, 300)).toBeCloseTo(-6, 0)
    expect(at(most, 4000)).toBeCloseTo(3, 0)
    expect(Math.abs(at(most, 60))).toBeLessThan(0.4)
    expect(Math.abs(at(most, 1100))).toBeLessThan(0.8)
  })

  it('is level beyond the corner of a region', () => {
    const { most } = follow({ type: 'low-cut', hz: 500, rangeDb: -9 })
    for (const hz of [30, 60, 120]) expect(at(most, hz)).toBeCloseTo(-9, 1)
    for (const hz of [2000, 8000]) expect(at(most, hz)).toBeCloseTo(0, 1)
  })

  it('moves with the gains of now, band by band, and leaves out those that are off', () => {
    const curve = follow({ hz: 300, q: 2, rangeDb: -6 }, { hz: 4000, q: 2, rangeDb: -6, on: false })
    const now = curve.now(Float32Array.of(-3, -6))
    expect(at(now, 300)).toBeCloseTo(-3, 0)
    expect(at(now, 4000)).toBeCloseTo(0, 1)
    // Gains of another number of bands belong to another moment.
    expect(curve.now(Float32Array.of(-3))).toBeNull()
  })

  it('has the shape of a band that has no range yet, at no depth', () => {
    const { most, now } = follow({ hz: 1000, rangeDb: 0 })
    expect(at(most, 1000)).toBeCloseTo(0, 9)
    expect(at(now(Float32Array.of(-2)), 1000)).toBeCloseTo(-2, 0)
  })
})

describe('the hanging curve of a bank', () => {
  const duck = newTreatment('duck', 'd', 'fit')
  const params = { ...duck.params, fromHz: 200, toHz: 6000, depthDb: 5 }
  const curve = curveFor({ ...duck, params }, RATE)

  it('lies at its ceiling within its span', () => {
    expect([at(curve.most, 100), at(curve.most, 1000), at(curve.most, 9000)]).toEqual([0, -5, 0])
  })

  it('runs from band to band over the ERB scale, and is nothing outside the span', () => {
    const gains = Float32Array.from({ length: 20 }, (_, i) => -i / 4)
    const now = curve.now(gains)
    expect(at(now, 100)).toBe(0)
    expect(at(now, 9000)).toBe(0)
    const inside = CURVE_HZ.map((_, i) => i).filter((i) => CURVE_HZ[i] > 220 && CURVE_HZ[i] < 5800)
    const values = Array.from(inside, (i) => now?.[i] ?? 0)
    for (let i = 1; i < values.length; i++) expect(values[i]).toBeLessThanOrEqual(values[i - 1])
    expect(values[0]).toBeGreaterThan(-0.5)
    expect(values[values.length - 1]).toBeLessThan(-4.2)
    expect(curve.now(new Float32Array())).toBeNull()
  })
})
