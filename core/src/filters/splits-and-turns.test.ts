import { describe, expect, it } from 'vitest'
import { clickRatio } from '../testing/clicks'
import { sine, whiteNoise } from '../testing/signals'
import { CROSSOVER_SLOPES, type CrossoverSpec, makeCrossover } from './crossover'
import { designBand } from './design'
import { type EqBand, newBand } from './eq-band'
import { firMagnitudeDb, linearPhaseFir, minimumPhaseFir } from './fir'
import { FractionalDelay } from './fractional-delay'
import { turnFrames, turnKernel, turnLatency } from './phase-turn'
import {
  impulseResponse,
  predictSumDb,
  type ReadableFilter,
  readFilter,
  stepResponse,
} from './reading'

const RATE = 48000
const SPLITS = [[800], [150, 2500], [90, 600, 5000], [60, 250, 1000, 4000]]

/** Splits a channel in blocks of uneven length; one array per band. */
function split(spec: CrossoverSpec, signal: Float32Array) {
  const crossover = makeCrossover(spec, RATE, 1)
  const bands = Array.from({ length: crossover.bands }, () => new Float32Array(signal.length))
  for (let at = 0, n = 1; at < signal.length; at += n) {
    n = Math.min(signal.length - at, 1 + ((at * 13) % 500))
    crossover.process(
      [signal.subarray(at, at + n)],
      bands.map((b) => [b.subarray(at, at + n)]),
      n,
    )
  }
  return { bands, latency: crossover.latency }
}
const sumOf = (bands: readonly Float32Array[]) =>
  bands[0].map((_, i) => bands.reduce((a, b) => a + b[i], 0))
const impulse = (frames: number) => {
  const signal = new Float32Array(frames)
  signal[0] = 1
  return signal
}

describe('crossovers', () => {
  it.each(CROSSOVER_SLOPES)('Linkwitz-Riley at %d dB per octave sums all-pass', (slopeDbPerOct) => {
    for (const hz of SPLITS) {
      const { bands } = split({ kind: 'linkwitz-riley', hz, slopeDbPerOct }, impulse(65536))
      const db = firMagnitudeDb(sumOf(bands), 65536)
      for (let k = 20; k < 27300; k++) expect(Math.abs(db[k])).toBeLessThan(0.05)
    }
  })

  it.each(CROSSOVER_SLOPES)(
    'each branch is -6.02 dB at the crossover, at %d dB per octave',
    (s) => {
      const spec = { kind: 'linkwitz-riley', hz: [750], slopeDbPerOct: s } as const
      const bin = Math.round((750 * 65536) / RATE)
      for (const band of split(spec, impulse(65536)).bands) {
        expect(firMagnitudeDb(band, 65536)[bin]).toBeCloseTo(-6.02, 1)
      }
    },
  )

  it.each(['linear', 'subtractive'] as const)('%s bands null against the input', (kind) => {
    const signal = whiteNoise(48000, 1, 0.5)
    for (const hz of SPLITS) {
      const { bands, latency } = split({ kind, hz, slopeDbPerOct: 24 }, signal)
      const sum = sumOf(bands)
      let worst = 0
      for (let i = latency; i < signal.length; i++) {
        worst = Math.max(worst, Math.abs(sum[i] - signal[i - latency]))
      }
      expect(20 * Math.log10(worst + 1e-12)).toBeLessThan(-120)
    }
  })

  it('linear branches have the magnitude of Linkwitz-Riley ones', () => {
    const spec = { kind: 'linear', hz: [750], slopeDbPerOct: 24 } as const
    const [low, high] = split(spec, impulse(65536)).bands.map((b) => firMagnitudeDb(b, 65536))
    const at = (hz: number) => Math.round((hz * 65536) / RATE)
    expect(Math.abs(low[at(750)] + 6.02)).toBeLessThan(0.06)
    expect(Math.abs(high[at(750)] + 6.02)).toBeLessThan(0.06)
    expect(low[at(1500)]).toBeCloseTo(-20 * Math.log10(17), 1)
  })

  it('refuses frequencies that do not rise', () => {
    const spec = { kind: 'linear', hz: [800, 800], slopeDbPerOct: 24 } as const
    expect(() => makeCrossover(spec, RATE, 1)).toThrow(/rising/)
  })
})

describe('delay and phase turn', () => {
  it.each([44100, 48000])('a fractional delay is flat within 0.1 dB to 18 kHz at %d Hz', (rate) => {
    for (const share of [0, 0.1, 0.25, 0.5, 0.77]) {
      const delay = new FractionalDelay(rate, 100, 10 + share)
      const signal = impulse(512)
      delay.process(signal, 512)
      const hz = Float64Array.from({ length: 180 }, (_, i) => 100 * (i + 1))
      const filter: ReadableFilter = {
        sections: [],
        kernels: [signal],
        latency: delay.latency + 10,
      }
      for (const reading of readFilter(filter, hz, rate)) {
        expect(Math.abs(reading.db)).toBeLessThan(0.1)
        expect(Math.abs(reading.groupDelayMs - (1000 * share) / rate)).toBeLessThan(0.002)
      }
    }
  })

  it('moves to another delay without a click', () => {
    const delay = new FractionalDelay(RATE, 1000, 3.3)
    const signal = sine(1000, 1, RATE, 0.5)
    for (let at = 0; at < signal.length; at += 128) {
      if (at === 128 * 180) delay.set(411.7)
      delay.process(signal.subarray(at, at + 128), Math.min(128, signal.length - at))
    }
    expect(clickRatio(signal.subarray(2000), RATE)).toBeLessThan(4)
  })

  const RATES = [44100, 48000, 96000]
  const TURNS = [
    [-180, -60],
    [-135, 0],
    [45, 140],
    [90, 180],
  ]
  it.each(RATES.flatMap((rate) => TURNS.map((turns) => ({ rate, turns }))))(
    'turns by a constant phase from 30 Hz to 20 kHz: $turns ° at $rate Hz',
    ({ rate, turns }) => {
      for (const degrees of turns) {
        const kernel = turnKernel(turnFrames(rate), degrees)
        expect(turnLatency(kernel.length)).toBeGreaterThan((kernel.length - 1) / 2)
        const filter: ReadableFilter = {
          sections: [],
          kernels: [kernel],
          latency: (kernel.length - 1) / 2,
        }
        const hz = Float64Array.from({ length: 60 }, (_, i) => 30 * (20000 / 30) ** (i / 59))
        for (const { phaseDeg, db } of readFilter(filter, hz, rate)) {
          const away = ((((phaseDeg + degrees) % 360) + 540) % 360) - 180
          expect(Math.abs(away)).toBeLessThan(2)
          expect(Math.abs(db)).toBeLessThan(0.5)
        }
      }
    },
  )
})

const filterOf = (...bands: Partial<EqBand>[]): ReadableFilter => ({
  sections: bands.flatMap((b) => designBand({ ...newBand(b.type ?? 'bell', 1000), ...b }, RATE)),
  kernels: [],
  latency: 0,
})
const LOG = Float64Array.from({ length: 200 }, (_, i) => 20 * 1000 ** (i / 199))

describe('reading a filter', () => {
  it('group delay is the slope of the unwrapped phase', () => {
    const filter = filterOf(
      { type: 'low-cut', hz: 200, slopeDbPerOct: 48 },
      { type: 'all-pass', hz: 3000, q: 6 },
      { db: 12, q: 8 },
    )
    const hz = Float64Array.from({ length: 4000 }, (_, i) => 20 + 5 * i)
    const readings = readFilter(filter, hz, RATE)
    for (let i = 1; i < readings.length - 1; i++) {
      const slope = (readings[i + 1].unwrappedDeg - readings[i - 1].unwrappedDeg) / (360 * 10)
      const { groupDelayMs } = readings[i]
      expect(Math.abs(-slope * 1000 - groupDelayMs)).toBeLessThan(
        0.02 + 0.02 * Math.abs(groupDelayMs),
      )
    }
  })

  it('an all-pass of second order turns by 360 degrees, by 180 at its frequency', () => {
    const readings = readFilter(
      filterOf({ type: 'all-pass', hz: 1000, q: 2 }),
      [20, 1000, 23900],
      RATE,
    )
    const phases = readings.map((r) => Math.round(r.unwrappedDeg))
    expect(phases[1]).toBe(-180)
    expect(phases[2]).toBeLessThan(-355)
  })

  it('a linear-phase kernel has none; a minimum-phase one has that of the recursive filter', () => {
    const band = filterOf({ db: 6, q: 1, hz: 2000 })
    const db = (hz: number) => readFilter(band, [hz], RATE)[0].db
    const linear = linearPhaseFir(db, 4097, { kind: 'hann' }, RATE)
    const minimum = minimumPhaseFir(db, 4097, { kind: 'hann' }, RATE)
    const read = (kernel: { taps: Float32Array; latency: number }) =>
      readFilter({ sections: [], kernels: [kernel.taps], latency: kernel.latency }, LOG, RATE)
    const recursive = readFilter(band, LOG, RATE)
    for (const [i, r] of read(linear).entries()) {
      expect(Math.abs(r.unwrappedDeg)).toBeLessThan(0.01)
      expect(Math.abs(r.db - recursive[i].db)).toBeLessThan(0.05)
    }
    for (const [i, r] of read(minimum).entries()) {
      if (LOG[i] > 15000) continue
      expect(Math.abs(r.phaseDeg - recursive[i].phaseDeg)).toBeLessThan(1.5)
    }
  })

  it('impulse and step agree with the response', () => {
    const filter = filterOf({ db: -9, q: 3, hz: 700 }, { type: 'high-shelf', db: 4, hz: 5000 })
    const h = impulseResponse(filter, 32768)
    const db = firMagnitudeDb(h, 32768)
    for (const { hz, db: wanted } of readFilter(filter, LOG, RATE)) {
      const bin = (hz * 32768) / RATE
      const low = Math.floor(bin)
      const between = db[low] + (bin - low) * (db[low + 1] - db[low])
      expect(Math.abs(between - wanted)).toBeLessThan(0.02)
    }
    const step = stepResponse(filter, 32768)
    expect(20 * Math.log10(step[32767])).toBeCloseTo(readFilter(filter, [0.01], RATE)[0].db, 2)
  })

  it('predicts sums: equal ones add 6 dB, opposed ones cancel, a late one combs', () => {
    const flat = filterOf()
    const path = { filter: flat, gainDb: 0, delayFrames: 0, polarity: 'normal' } as const
    expect(predictSumDb([path, path], [1000], RATE)[0]).toBeCloseTo(6.02, 2)
    expect(predictSumDb([path, { ...path, polarity: 'inverted' }], [1000], RATE)[0]).toBeLessThan(
      -200,
    )
    const late = predictSumDb([path, { ...path, delayFrames: 24 }], [1000, 2000], RATE)
    expect(late[0]).toBeLessThan(-200)
    expect(late[1]).toBeCloseTo(6.02, 2)
  })

  it('two ordinary cuts at one corner leave a dip of 3 dB between them', () => {
    const low = filterOf({ type: 'high-cut', hz: 1000, slopeDbPerOct: 24 })
    const high = filterOf({ type: 'low-cut', hz: 1000, slopeDbPerOct: 24 })
    // Butterworth branches in phase quadrature sum to 0 dB in power, 3 dB each at the corner.
    expect(readFilter(low, [1000], RATE)[0].db).toBeCloseTo(-3.01, 1)
    expect(readFilter(high, [1000], RATE)[0].db).toBeCloseTo(-3.01, 1)
  })
})
