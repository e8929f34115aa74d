import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { USUAL_HEARING } from '../findings'
import { sine } from '../testing/signals'
import { LoudnessSmoother, loudnessOverTime } from './loudness-over-time'

const RATE = 48000
/** Amplitude of a mono tone of 1 kHz that is heard at so many dB SPL: -23 LUFS at 73, K-weighting neutral there. */
const amplitudeAt = (dbSpl: number) => Math.SQRT2 * 10 ** ((dbSpl - 96) / 20)
function burst(dbSpl: number, seconds: number, lengthSeconds = 1): Float32Array {
  const out = new Float32Array(lengthSeconds * RATE)
  const ramp = 0.002 * RATE
  const tone = sine(1000, seconds, RATE, amplitudeAt(dbSpl))
  const from = 0.2 * RATE
  tone.forEach((v, i) => {
    out[from + i] = v * Math.min(1, i / ramp, (tone.length - i) / ramp)
  })
  return out
}
const heard = (signal: Float32Array) => loudnessOverTime(makeClip(RATE, [signal]), USUAL_HEARING)
const most = (values: Float64Array) => values.reduce((a, b) => Math.max(a, b), 0)
/** Loudness level in phon, from sone: ten phon a doubling, above a sone (ANSI S3.4). */
const phon = (sone: number) => 40 + 10 * Math.log2(sone)

describe('smoothing of loudness', () => {
  it.each([
    ['shortTerm', 0.0217, 0.0495],
    ['longTerm', 0.0991, 2],
  ] as const)('%s loudness follows a step to 63 %% in its times', (which, attack, release) => {
    const step = 0.0005
    const smoother = new LoudnessSmoother(step)
    /** The long one follows the short one: once that stands, it is the only one that moves. */
    const settle = (sone: number) => {
      for (let t = 0; t < 20; t += step) smoother.next(sone)
    }
    const time = (to: number) => {
      const from = smoother[which]
      let t = 0
      while (Math.abs(smoother[which] - from) < (1 - Math.exp(-1)) * Math.abs(to - from)) {
        smoother.next(to)
        t += step
      }
      return t
    }
    settle(0)
    const slack = which === 'longTerm' ? 0.06 : 0.001
    expect(Math.abs(time(4) - attack)).toBeLessThan(slack)
    settle(4)
    expect(Math.abs(time(0) - release)).toBeLessThan(slack)
  })

  it('never leaves what it smooths', () => {
    const smoother = new LoudnessSmoother(0.005)
    for (let i = 0; i < 2000; i++) {
      smoother.next(i % 7 === 0 ? 9 : 3)
      expect(smoother.shortTerm).toBeLessThanOrEqual(9)
      expect(smoother.longTerm).toBeLessThanOrEqual(9)
    }
    expect(smoother.longTerm).toBeGreaterThan(3)
  })
})

describe('loudness over time', () => {
  it('of a tone of 1 kHz at 40 dB SPL is a sone, once it sounds', () => {
    const { shortTerm, longTerm, stepSeconds } = heard(burst(40, 1.2, 1.6))
    const at = Math.round(1.2 / stepSeconds)
    expect(Math.abs(shortTerm[at] - 1)).toBeLessThan(0.05)
    expect(Math.abs(longTerm[at] - 1)).toBeLessThan(0.05)
  })

  it('of a tone grows by a doubling each 10 dB', () => {
    const loud = [50, 60, 70].map((db) => most(heard(burst(db, 0.6)).shortTerm))
    expect(loud[1] / loud[0]).toBeCloseTo(2, 0)
    expect(loud[2] / loud[1]).toBeCloseTo(2, 0)
  })

  it('grows with a burst’s length up to about 200 ms, by some ten phon from 10 ms on', () => {
    // Up to about 100 ms it is the energy that counts: 10 dB from 10 to 100 ms (Glasberg and Moore 2002, figure 4; memory).
    const levels = [0.01, 0.03, 0.1, 0.2, 0.6].map((s) => phon(most(heard(burst(60, s)).shortTerm)))
    for (let i = 1; i < levels.length; i++) expect(levels[i]).toBeGreaterThan(levels[i - 1] - 0.05)
    expect(levels[2] - levels[0]).toBeGreaterThan(5)
    expect(levels[2] - levels[0]).toBeLessThan(14)
    expect(levels[4] - levels[3]).toBeLessThan(0.5)
  })

  it('of a long sound is the same in pieces as at once', () => {
    const long = sine(500, 9, RATE, 0.02).map((v, i) => v * (Math.floor(i / (RATE / 3)) % 2))
    const whole = heard(long)
    const offset = Math.round(7 / whole.stepSeconds)
    const tail = heard(long.subarray(Math.round(offset * whole.stepSeconds * RATE)))
    // From a while after the second one's beginning, over the seam at 8 s.
    for (let t = 0.6; t < 1.9; t += 0.05) {
      const i = Math.round(t / whole.stepSeconds)
      const [a, b] = [whole.instantaneous[offset + i], tail.instantaneous[i]]
      expect(Math.abs(a - b)).toBeLessThan(0.001 + 0.01 * Math.max(a, b))
    }
  })

  it('is nothing in silence', () => {
    expect(most(heard(new Float32Array(RATE)).longTerm)).toBe(0)
  })
})
