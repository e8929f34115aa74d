import { describe, expect, it } from 'vitest'
import { bandNoise, gaussianNoise, harmonics } from '../testing/signals'
import {
  FILTER_COUNT,
  filterNear,
  type HearingSettings,
  heardMoments,
  kFactor,
  maskTracks,
  planMoments,
  TONAL_MASKER_DB,
  trackMasking,
} from '.'

const RATE = 48000
const SECONDS = 1
const SETTINGS: HearingSettings = {
  mode: 'mono',
  listening: 'headphones',
  calibration: { lufs: -23, dbSpl: 53 },
}

/** Mean tonality of a sound in the filter at a frequency. */
function tonalityAt(sound: Float32Array, hz: number, rate = RATE): number {
  const { tonal, moments } = heardMoments([sound], rate, planMoments(rate, sound.length, [], 60))
  let sum = 0
  for (let m = 0; m < moments.at.length; m++) sum += tonal[m * FILTER_COUNT + filterNear(hz)]
  return sum / moments.at.length
}

describe('how tonal a sound is', () => {
  it.each([44100, 48000, 96000])('is next to nothing for noise at %i Hz', (rate) => {
    const noise = gaussianNoise(SECONDS * rate, 5, 0.1)
    for (const hz of [60, 120, 250, 500, 1000, 2000, 4000, 8000]) {
      expect(tonalityAt(noise, hz, rate)).toBeLessThan(0.03)
    }
  })

  it.each([110, 220, 440])('is next to 1 for the partials of %i Hz, where they lie apart', (hz) => {
    const tones = harmonics(hz, [hz, 8000], SECONDS, RATE)
    for (const at of [hz, 500, 1000, 2000, 4000]) expect(tonalityAt(tones, at)).toBeGreaterThan(0.9)
  })

  it('is that of noise for partials that no filter and no window parts', () => {
    const tones = harmonics(30, [1000, 5000], SECONDS, RATE)
    for (const hz of [1500, 3000]) expect(tonalityAt(tones, hz)).toBeLessThan(0.35)
  })

  it('lies between for tones in noise of their strength', () => {
    const noise = bandNoise([500, 2000], SECONDS, RATE, 2)
    const tones = harmonics(300, [500, 2000], SECONDS, RATE)
    const both = tones.map((v, i) => v + 0.3 * noise[i])
    expect(tonalityAt(both, 1000)).toBeGreaterThan(tonalityAt(noise, 1000) + 0.2)
    expect(tonalityAt(both, 1000)).toBeLessThan(tonalityAt(tones, 1000) - 0.1)
  })

  it('does not take the edge of a band of noise for a tone', () => {
    const noise = bandNoise([500, 2000], SECONDS, RATE, 4)
    for (const hz of [520, 1000, 1900]) expect(tonalityAt(noise, hz)).toBeLessThan(0.2)
  })
})

describe('a tonal masker', () => {
  /** Loudness of a target in a background of 50 dB SPL, as far over or under it as said. */
  function partial(target: Float32Array, background: Float32Array, ratioDb: number): number {
    const moments = planMoments(RATE, target.length, [], 60)
    const tracks = [
      { heard: heardMoments([target], RATE, moments), gainDb: ratioDb },
      { heard: heardMoments([background], RATE, moments), gainDb: 0 },
    ]
    return trackMasking(maskTracks(tracks, SETTINGS), 0).inMixSone
  }

  /** Ratio of target to background at which the target reaches a loudness. */
  function ratioFor(target: Float32Array, background: Float32Array, sone: number): number {
    let [low, high] = [-36, 12]
    for (let i = 0; i < 9; i++) {
      const middle = (low + high) / 2
      if (partial(target, background, middle) < sone) low = middle
      else high = middle
    }
    return (low + high) / 2
  }

  it('takes K down by as many dB as it is tonal', () => {
    expect(10 * Math.log10(kFactor(1))).toBeCloseTo(-TONAL_MASKER_DB, 9)
    expect(10 * Math.log10(kFactor(0.5))).toBeCloseTo(-TONAL_MASKER_DB / 2, 9)
    expect(kFactor(0)).toBe(1)
  })

  it('covers with a noise beside it as both do by themselves: thresholds add up', () => {
    const moments = planMoments(RATE, SECONDS * RATE, [], 60)
    const noise = bandNoise([1000, 4000], SECONDS, RATE, 6)
    const tones = harmonics(220, [1000, 4000], SECONDS, RATE)
    const masker = bandNoise([1000, 4000], SECONDS, RATE, 7)
    const heard = (sound: Float32Array) => heardMoments([sound], RATE, moments)
    const shareBeside = (maskers: readonly (readonly [Float32Array, number])[]) => {
      const all = [[noise, -6] as const, ...maskers]
      const tracks = all.map(([sound, gainDb]) => ({ heard: heard(sound), gainDb }))
      return trackMasking(maskTracks(tracks, SETTINGS), 0).audibleShare
    }
    const beside = [shareBeside([[tones, 0]]), shareBeside([[masker, 0]])]
    const half = shareBeside([
      [tones, -3.01],
      [masker, -3.01],
    ])
    expect(half).toBeLessThan(beside[0] - 0.05)
    expect(half).toBeGreaterThan(beside[1] + 0.02)
    // However tonal it is, a masker that is added takes something.
    const both = shareBeside([
      [tones, 0],
      [masker, 0],
    ])
    expect(both).toBeLessThan(Math.min(...beside))
  })

  // Gockel, Moore and Patterson 2003 (JASA 114, 349): 12 to 16 dB, of partials from the tenth up to 5 kHz
  // (memory); less is taken here, see docs/hearing.md.
  it.each([
    { hz: 125, band: [1250, 5000] as const },
    { hz: 250, band: [2500, 5000] as const },
  ])('of $hz Hz covers noise less than noise covers it, by 6 dB and more', ({ hz, band }) => {
    const tones = harmonics(hz, band, SECONDS, RATE)
    const noise = bandNoise(band, SECONDS, RATE, 3)
    const asymmetry = [0.2, 0.6].map(
      (sone) => ratioFor(tones, noise, sone) - ratioFor(noise, tones, sone),
    )
    for (const db of asymmetry) {
      expect(db).toBeGreaterThan(6)
      expect(db).toBeLessThan(16)
    }
  })
})
