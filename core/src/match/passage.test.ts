import { describe, expect, it } from 'vitest'
import { designBand } from '../filters'
import { whiteNoise } from '../testing/signals'
import { PassageMeter } from './index'

const RATE = 12_000

/** Noise of a colour: above or below 1 kHz. */
function noise(seconds: number, type: 'low-cut' | 'high-cut', seed: number, gain: number) {
  const cut = { type, hz: 1000, db: 0, q: Math.SQRT1_2, slopeDbPerOct: 24 } as const
  const out = Float64Array.from(whiteNoise(Math.round(seconds * RATE), seed, gain))
  for (const { b0, b1, b2, a1, a2 } of designBand({ ...cut, channel: 'stereo' }, RATE)) {
    let [z1, z2] = [0, 0]
    for (let i = 0; i < out.length; i++) {
      const x = out[i]
      out[i] = b0 * x + z1
      z1 = b1 * x - a1 * out[i] + z2
      z2 = b2 * x - a2 * out[i]
    }
  }
  return Float32Array.from(out)
}
function meterOf(parts: readonly Float32Array[]): PassageMeter {
  const meter = new PassageMeter(RATE)
  for (const part of parts)
    for (let at = 0; at < part.length; at += 1000) meter.add([part.subarray(at, at + 1000)])
  return meter
}

describe('a passage', () => {
  // Dark, then both, then bright: the middle stands for the whole.
  const dark = noise(20, 'high-cut', 1, 0.3)
  const bright = noise(20, 'low-cut', 2, 0.3)
  const both = noise(20, 'high-cut', 3, 0.2).map((v, i) => v + 0.7 * bright[i])
  const meter = meterOf([dark, both, bright])

  it('is proposed where the spectrum stands nearest the whole’s', () => {
    const found = meter.propose(10)
    expect(found?.fromSeconds).toBeGreaterThan(14)
    expect(found?.toSeconds).toBeLessThan(46)
    expect(found?.apartDb).toBeLessThan(2.5)
    expect(meter.read(2, 12)?.apartDb).toBeGreaterThan(5)
  })

  it('is read by how far it stands from the whole, and how loud', () => {
    const whole = meter.read(0, 60)
    expect(whole?.apartDb).toBeCloseTo(0, 6)
    expect(whole?.louderDb).toBeCloseTo(0, 6)
    const quiet = meterOf([dark, dark.map((v) => 0.1 * v)]).read(22, 38)
    // A tenth of the amplitude: -20 dB, against a whole that is half of it: 2.97 dB more.
    expect(quiet?.louderDb).toBeCloseTo(-20 + 2.97, 0)
    expect(quiet?.apartDb).toBeLessThan(1)
  })

  it('may be a quiet and a full one together; nothing where all is as loud, and never a pause', () => {
    const pause = new Float32Array(12 * RATE)
    const uneven = meterOf([dark, dark.map((v) => 0.2 * v), pause, dark])
    const found = uneven.extremes(10)
    expect(found?.quiet.fromSeconds).toBeGreaterThan(19)
    expect(found?.quiet.toSeconds).toBeLessThan(43.5)
    // Amplitude of a fifth: 14 dB apart, when the quiet one is no pause.
    expect((found?.full.louderDb ?? 0) - (found?.quiet.louderDb ?? 0)).toBeGreaterThan(13)
    expect(found?.quiet.louderDb).toBeGreaterThan(-30)
    expect(meterOf([dark, dark, dark]).extremes(10)).toBeNull()
    expect(meterOf([dark]).extremes(12)).toBeNull()
  })

  it('is never a quiet one, is everything where there is no more, and nothing in silence', () => {
    const found = meterOf([dark.map((v) => 0.1 * v), dark]).propose(10)
    expect(found?.fromSeconds).toBeGreaterThan(14)
    expect(meterOf([dark.subarray(0, 6 * RATE)]).propose(24)?.fromSeconds).toBe(0)
    expect(meterOf([new Float32Array(20 * RATE)]).propose(10)).toBeNull()
    expect(new PassageMeter(RATE).propose(10)).toBeNull()
  })
})
