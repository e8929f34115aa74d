import { describe, expect, it } from 'vitest'
import { doubleFft } from '../spectrum'
import { rms, sine, whiteNoise } from '../testing/signals'
import {
  LEVEL_STEP,
  LevellerGain,
  type LevellerSettings,
  levelsOf,
  Oversampler,
  readLeveller,
  Saturator,
  staticGainDb,
  thresholdFor,
} from './index'

const RATE = 48_000

describe('smooth saturation', () => {
  const driven = (signal: Float32Array, driveDb: number, mix = 1) => {
    const saturator = new Saturator(RATE, 1)
    saturator.set({ driveDb, mix, outputDb: 0 }, true)
    const out = new Float32Array(signal.length + saturator.latency)
    out.set(signal)
    for (let at = 0; at < out.length; at += 128) {
      const block = out.subarray(at, Math.min(at + 128, out.length))
      saturator.process([block], block.length)
    }
    return out.subarray(saturator.latency)
  }

  it('is late by what it says, and linear in phase', () => {
    const oversampler = new Oversampler()
    const impulse = new Float32Array(200)
    impulse[0] = 1
    for (let at = 0; at < 200; at += 50)
      oversampler.process(impulse.subarray(at, at + 50), 50, () => {})
    const { latency } = Oversampler
    expect(impulse.indexOf(Math.max(...impulse))).toBe(latency)
    for (let i = 1; i <= latency; i++) {
      expect(impulse[latency + i]).toBeCloseTo(impulse[latency - i], 6)
    }
  })

  it.each([0, 6, 12, 18])(
    'driven by %d dB, a 5 kHz tone folds back less than -90 dB',
    (driveDb) => {
      const size = 16_384
      const bin = Math.round((5000 * size) / RATE)
      const out = driven(sine((bin * RATE) / size, 0.6, RATE, 0.5), driveDb)
      const spectrum = doubleFft(size).forward(Float64Array.from(out.subarray(4096, 4096 + size)))
      const level = (k: number) => 20 * Math.log10(Math.hypot(spectrum[2 * k], spectrum[2 * k + 1]))
      const tone = level(bin)
      let worst = Number.NEGATIVE_INFINITY
      for (let k = 1; k < size / 2; k++) if (k % bin !== 0) worst = Math.max(worst, level(k) - tone)
      expect(worst).toBeLessThan(-90)
      // It does something, above nothing: the third harmonic.
      expect(level(3 * bin) - tone).toBeGreaterThan(-40)
    },
  )

  it.each([
    [12, 15_000, -89],
    [18, 11_000, -75],
    [18, 19_000, -48],
  ])(
    'driven by %d dB, aliases of a tone at %d Hz stay where they are told: %d dBFS',
    (driveDb, hz, mostDb) => {
      const size = 16_384
      const bin = Math.round((hz * size) / RATE) | 1
      const out = driven(sine((bin * RATE) / size, 0.6, RATE, 0.5), driveDb)
      const spectrum = doubleFft(size).forward(Float64Array.from(out.subarray(4096, 4096 + size)))
      let worst = 0
      for (let k = 1; k < size / 2; k++) {
        if (k !== bin) worst = Math.max(worst, Math.hypot(spectrum[2 * k], spectrum[2 * k + 1]))
      }
      const aliasDb = 20 * Math.log10((2 * worst) / size)
      expect(aliasDb).toBeLessThan(mostDb)
      expect(aliasDb).toBeGreaterThan(mostDb - 3)
    },
  )

  it('leaves quiet sound as it is, up to 20 kHz', () => {
    for (const hz of [50, 1000, 10_000, 19_000]) {
      const quiet = sine(hz, 0.3, RATE, 0.0005)
      const out = driven(quiet, 18)
      const change = rms(out, 4800, 12_000) / rms(quiet, 4800, 12_000)
      expect(20 * Math.log10(change)).toBeCloseTo(0, 2)
    }
  })

  it('follows tanh where nothing is near the edge of hearing', () => {
    const tone = sine(100, 0.2, RATE, 0.6)
    const gain = 10 ** (12 / 20)
    const out = driven(tone, 12)
    for (let i = 2000; i < 8000; i += 37) {
      expect(out[i]).toBeCloseTo(Math.tanh(gain * tone[i]) / gain, 5)
    }
  })

  it('blends with the untouched sound in time', () => {
    const noise = whiteNoise(9600, 3, 0.1)
    const out = driven(noise, 12, 0)
    for (let i = 0; i < noise.length; i++) expect(out[i]).toBe(noise[i])
  })
})

describe('a leveller', () => {
  const settings: LevellerSettings = {
    thresholdDb: -30,
    ratio: 3,
    kneeDb: 10,
    atMostDb: 24,
    detector: 'both',
    attackMs: 10,
    releaseMs: 100,
    lowCutHz: 20,
  }
  const stepSeconds = LEVEL_STEP / RATE
  const gainAt = (powerDb: number, seconds: number, s = settings) => {
    const gain = new LevellerGain(stepSeconds)
    gain.set(s)
    let db = 0
    for (let t = 0; t < seconds; t += stepSeconds) db = gain.next(10 ** (powerDb / 10))
    return db
  }

  it.each([-50, -34, -30, -27, -20, -10, 0])('rests on its static curve at %d dB', (level) => {
    const curve = { thresholdDb: -30, ratio: 3, kneeDb: 10, rangeDb: -24 }
    expect(gainAt(level, 8)).toBeCloseTo(staticGainDb(level, curve), 2)
    expect(gainAt(level, 8, { ...settings, detector: 'fast' })).toBeCloseTo(
      staticGainDb(level, curve),
      2,
    )
  })

  it('takes no more than it may', () => {
    expect(gainAt(0, 8, { ...settings, atMostDb: 4 })).toBeCloseTo(-4, 6)
  })

  it('has the fast detector’s times', () => {
    const fast = { ...settings, detector: 'fast' as const, kneeDb: 0 }
    const goal = gainAt(-10, 8, fast)
    // Attack: 63 % after its time, with the detector's own 5 ms beside it.
    expect(gainAt(-10, 0.01, fast)).toBeGreaterThan(0.63 * goal)
    expect(gainAt(-10, 0.02, fast)).toBeLessThan(0.63 * goal)
    const gain = new LevellerGain(stepSeconds)
    gain.set(fast)
    for (let t = 0; t < 1; t += stepSeconds) gain.next(0.1)
    let left = 0
    for (let t = 0; t < 0.13; t += stepSeconds) left = gain.next(1e-9)
    // After its detector has fallen, the release: gone by about 63 %.
    expect(left / goal).toBeGreaterThan(0.25)
    expect(left / goal).toBeLessThan(0.5)
  })

  it('catches with the fast detector what the slow one is late for', () => {
    const loud = gainAt(-8, 0.04)
    expect(loud).toBeLessThan(gainAt(-8, 0.04, { ...settings, attackMs: 200 }) - 3)
    // And rides slowly on what lies no more than 4 dB over it.
    expect(gainAt(-27, 0.04)).toBeGreaterThan(-0.6)
  })

  it('finds the threshold with which the loudest moment loses just so much', () => {
    const words = whiteNoise(4 * RATE, 7, 0.5).map(
      (v, i) => v * (0.1 + 0.9 * ((i / RATE / 0.7) % 1)),
    )
    const levels = levelsOf([words], RATE, 20)
    for (const atMostDb of [2, 4, 8]) {
      const thresholdDb = thresholdFor(levels, { ...settings, atMostDb }, RATE)
      const read = readLeveller(
        levels,
        { ...settings, atMostDb: 60, thresholdDb: thresholdDb ?? 0 },
        RATE,
      )
      expect(read.deepestDb).toBeCloseTo(-atMostDb, 0)
      expect(read.meanDb).toBeGreaterThan(read.deepestDb)
      expect(read.meanDb).toBeLessThan(0)
    }
    expect(thresholdFor(new Float32Array(1000), { ...settings, atMostDb: 4 }, RATE)).toBeNull()
    expect(thresholdFor(levels, { ...settings, ratio: 1, atMostDb: 4 }, RATE)).toBeNull()
  })

  it('does not hear what lies under its low cut', () => {
    const rumble = sine(40, 1, RATE, 0.8)
    const power = (hz: number) =>
      levelsOf([rumble], RATE, hz)
        .slice(-500)
        .reduce((a, v) => a + v, 0)
    // Two octaves and a bit under a 12 dB/oct cut.
    expect(10 * Math.log10(power(200) / power(20))).toBeLessThan(-25)
  })
})
