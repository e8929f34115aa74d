import { describe, expect, it } from 'vitest'
import { makeClip, seededRandom } from '../../audio'
import { LOW_END_BANDS, readLowEnd } from './low-end'

const RATE = 48_000
const sine = (hz: number, gain = 0.5) =>
  Float32Array.from({ length: 3 * RATE }, (_, i) => gain * Math.sin((2 * Math.PI * hz * i) / RATE))
const noise = (seed: number) => {
  const random = seededRandom(seed)
  return Float32Array.from({ length: 3 * RATE }, () => random() - 0.5)
}
const band = (hz: number) => LOW_END_BANDS.findIndex(([from, to]) => hz >= from && hz < to)
const inBand = (reading: ReturnType<typeof readLowEnd>, b: number) =>
  Array.from(
    { length: reading.columns },
    (_, c) => reading.correlation[c * LOW_END_BANDS.length + b],
  )

describe('the low end', () => {
  it('is alike where both sides are one, and opposite where one is turned', () => {
    const [low, high] = [sine(60), sine(200)]
    const left = low.map((v, i) => v + high[i])
    const right = low.map((v, i) => v - high[i])
    const reading = readLowEnd(makeClip(RATE, [left, right]), 100)
    for (const v of inBand(reading, band(60))) expect(v).toBeCloseTo(1, 2)
    for (const v of inBand(reading, band(200))) expect(v).toBeCloseTo(-1, 2)
    // Below 100 Hz is the tone of both sides alone: 0.5 is -9.03 dB in the mean square.
    expect(reading.below.left).toBeCloseTo(-9.03, 1)
    expect(reading.below.mid).toBeCloseTo(-9.03, 1)
    expect(reading.below.side).toBeLessThan(-40)
    expect(reading.below.monoLoss).toBeCloseTo(0, 1)
  })

  it('loses 3 dB in mono where the sides have nothing in common, and all where they are opposite', () => {
    const apart = readLowEnd(makeClip(RATE, [noise(1), noise(2)]), 600)
    expect(apart.below.monoLoss).toBeCloseTo(3, 0)
    const mean = inBand(apart, band(400)).reduce((a, v) => a + v, 0) / apart.columns
    expect(Math.abs(mean)).toBeLessThan(0.1)
    const one = readLowEnd(makeClip(RATE, [sine(80), new Float32Array(3 * RATE)]), 600)
    // Against the mean of both, of which one is nothing.
    expect(one.below.monoLoss).toBeCloseTo(3, 1)
    const opposite = readLowEnd(makeClip(RATE, [sine(80), sine(80).map((v) => -v)]), 600)
    expect(opposite.below.monoLoss).toBeGreaterThan(40)
  })

  it('tells nothing where nothing sounds', () => {
    const reading = readLowEnd(makeClip(RATE, [sine(60), sine(60)]), 100)
    for (const v of inBand(reading, band(500))) expect(v).toBeNaN()
    const silent = readLowEnd(makeClip(RATE, [new Float32Array(100)]), 100)
    expect(silent.columns).toBe(1)
    expect(Array.from(silent.correlation).every(Number.isNaN)).toBe(true)
  })
})
