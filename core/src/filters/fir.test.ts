import { describe, expect, it } from 'vitest'
import { clickRatio } from '../testing/clicks'
import { rms, sine, whiteNoise } from '../testing/signals'
import { Convolver, partitionFor } from './convolver'
import { type DrawnCurve, drawnDb, drawnFir } from './drawn-curve'
import { firMagnitudeDb, linearPhaseFir, minimumPhaseFir } from './fir'

const RATE = 48000

function convolve(signal: Float32Array, taps: Float32Array): Float64Array {
  const out = new Float64Array(signal.length)
  for (let i = 0; i < signal.length; i++) {
    let sum = 0
    for (let k = Math.max(0, i - taps.length + 1); k <= i; k++) sum += signal[k] * taps[i - k]
    out[i] = sum
  }
  return out
}

/** Level of a sine through a kernel, in dB relative to its own. */
function through(taps: Float32Array, hz: number, seconds = 3): number {
  const signal = sine(hz, seconds, RATE, 1)
  const convolver = new Convolver(taps)
  convolver.process(signal, 0, signal.length)
  const from = taps.length + 2 * convolver.latency
  // By projection on the sine, so that rounding noise does not count as signal.
  let re = 0
  let im = 0
  for (let i = from; i < signal.length; i++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i - from)) / (signal.length - from))
    re += w * signal[i] * Math.cos((2 * Math.PI * hz * i) / RATE)
    im += w * signal[i] * Math.sin((2 * Math.PI * hz * i) / RATE)
  }
  return 20 * Math.log10((4 * Math.hypot(re, im)) / (signal.length - from) + 1e-12)
}

describe('partitioned convolution', () => {
  it.each([1, 100, 128, 1000, 3000, 9000])('equals direct convolution with %d taps', (length) => {
    const taps = whiteNoise(length, 1, 1 / Math.sqrt(length))
    const signal = whiteNoise(14000, 2, 0.5)
    const wanted = convolve(signal, taps)
    const convolver = new Convolver(taps)
    const out = signal.slice()
    // Blocks of uneven length: the result does not depend on them.
    for (let at = 0, n = 1; at < out.length; at += n) {
      n = Math.min(out.length - at, 1 + ((at * 7) % 391))
      convolver.process(out, at, n)
    }
    let worst = 0
    for (let i = convolver.latency; i < out.length; i++) {
      worst = Math.max(worst, Math.abs(out[i] - wanted[i - convolver.latency]))
    }
    expect(worst).toBeLessThan(3e-6)
    expect(convolver.latency).toBe(partitionFor(length))
  })

  it('changes its kernel without a click, and then has the new one', () => {
    const one = new Float32Array(4000)
    const two = new Float32Array(4000)
    one[0] = 1
    two[900] = -0.5
    const signal = sine(1000, 1, RATE, 0.5)
    const out = signal.slice()
    const convolver = new Convolver(one)
    convolver.process(out, 0, 24000)
    convolver.set(two)
    convolver.process(out, 24000, 24000)
    expect(clickRatio(out.subarray(1000), RATE)).toBeLessThan(4)
    for (let i = 40000; i < 41000; i++) {
      expect(Math.abs(out[i] + 0.5 * signal[i - 900 - convolver.latency])).toBeLessThan(1e-5)
    }
  })

  it('gives silence for silence after a reset', () => {
    const convolver = new Convolver(whiteNoise(1000, 1))
    convolver.process(whiteNoise(5000, 2), 0, 5000)
    convolver.reset()
    const out = new Float32Array(5000)
    convolver.process(out, 0, 5000)
    expect(rms(out)).toBe(0)
  })
})

describe('designs from a magnitude', () => {
  const bell = (hz: number) => 9 * Math.exp(-((Math.log2(Math.max(hz, 1) / 2000) / 0.5) ** 2))

  it.each(['linear', 'minimum'])('%s phase has the magnitude that was asked for', (phase) => {
    const make = phase === 'linear' ? linearPhaseFir : minimumPhaseFir
    const { taps, latency } = make(bell, 2048, { kind: 'hann' }, RATE)
    const db = firMagnitudeDb(taps, 16384)
    for (let k = 20; k < db.length; k++) {
      expect(Math.abs(db[k] - bell((k * RATE) / 16384))).toBeLessThan(0.02)
    }
    expect(latency).toBe(phase === 'linear' ? 1023 : 0)
  })

  it('linear phase is symmetric, minimum phase has its energy as early as can be', () => {
    const linear = linearPhaseFir(bell, 1024, { kind: 'hann' }, RATE).taps
    for (let i = 0; i < 511; i++) expect(linear[i]).toBeCloseTo(linear[1022 - i], 6)
    const minimum = minimumPhaseFir(bell, 1024, { kind: 'hann' }, RATE).taps
    const early = (taps: Float32Array, n: number) => taps.slice(0, n).reduce((a, v) => a + v * v, 0)
    for (const n of [1, 8, 64]) expect(early(minimum, n)).toBeGreaterThan(early(linear, n))
    expect(early(minimum, 1024)).toBeCloseTo(early(linear, 1024), 3)
  })
})

describe('a drawn curve', () => {
  const needle: DrawnCurve = {
    points: [
      { hz: 985, db: 0 },
      { hz: 994.9, db: 0 },
      { hz: 995, db: -120 },
      { hz: 1005, db: -120 },
      { hz: 1005.1, db: 0 },
    ],
    joining: 'straight',
    axis: 'log',
  }

  it.each(['linear', 'minimum'] as const)(
    'needle of 10 Hz at 65,536 taps removes a sine by 100 dB and leaves one 30 Hz away, %s phase',
    (phase) => {
      const design = { taps: 65536, window: { kind: 'blackman-harris' }, phase } as const
      const { taps } = drawnFir(needle, design, RATE)
      expect(through(taps, 1000, 4)).toBeLessThan(-100)
      expect(Math.abs(through(taps, 1030, 4))).toBeLessThan(0.5)
      expect(Math.abs(through(taps, 970, 4))).toBeLessThan(0.5)
    },
  )

  it('tells by its true response what a short filter gives instead', () => {
    const design = { taps: 512, window: { kind: 'hann' }, phase: 'linear' } as const
    const db = firMagnitudeDb(drawnFir(needle, design, RATE).taps, 65536)
    expect(db[Math.round((1000 * 65536) / RATE)]).toBeGreaterThan(-3)
  })

  it('joins points straight over either axis, or smoothly without going beyond them', () => {
    const points = [
      { hz: 100, db: 0 },
      { hz: 400, db: -12 },
      { hz: 6400, db: 6 },
    ]
    const log = drawnDb({ points, joining: 'straight', axis: 'log' })
    const linear = drawnDb({ points, joining: 'straight', axis: 'linear' })
    expect(log(200)).toBeCloseTo(-6, 9)
    expect(linear(250)).toBeCloseTo(-6, 9)
    expect([log(20), log(20000)]).toEqual([0, 6])
    const smooth = drawnDb({ points, joining: 'smooth', axis: 'log' })
    for (let hz = 100; hz < 6400; hz *= 1.01) {
      expect(smooth(hz)).toBeGreaterThanOrEqual(-12)
      expect(smooth(hz)).toBeLessThanOrEqual(6)
    }
    expect(smooth(400)).toBeCloseTo(-12, 6)
  })

  it('refuses lengths out of range and points out of order', () => {
    const design = { taps: 32, window: { kind: 'hann' }, phase: 'linear' } as const
    expect(() => drawnFir(needle, design, RATE)).toThrow(/64 to 65536/)
    const points = [...needle.points].reverse()
    expect(() => drawnDb({ ...needle, points })).toThrow(/order of frequency/)
    expect(() => drawnDb({ ...needle, points: [] })).toThrow(/at least one/)
  })
})
