import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { sine, whiteNoise } from '../testing/signals'
import {
  changeExcitation,
  DEFAULT_CALIBRATION,
  excitation,
  FILTER_COUNT,
  FILTER_HZ,
  hearingBands,
  type MaskingTrack,
  maskFrames,
  pairMasking,
  roex,
  specificLoudness,
  symmetricSlope,
  toneIntensity,
  totalSone,
  trackMasking,
} from '.'

const pattern = (hz: number, db: number) =>
  excitation(toneIntensity(hz, db), new Float64Array(FILTER_COUNT))
const sone = (hz: number, db: number) =>
  totalSone(specificLoudness(pattern(hz, db), new Float64Array(FILTER_COUNT)))

describe('loudness of tones (ANSI S3.4-2007, ISO 532-2)', () => {
  it('1 kHz at 40 dB SPL is one sone by definition', () => {
    expect(sone(1000, 40)).toBeCloseTo(1, 6)
  })

  it('doubles about every 10 dB above 40 phon', () => {
    for (const db of [40, 50, 60, 70]) {
      const ratio = sone(1000, db + 10) / sone(1000, db)
      expect(ratio).toBeGreaterThan(1.85)
      expect(ratio).toBeLessThan(2.25)
    }
  })

  // Table of the standard for 1 kHz (memory): 20 phon 0.143, 60 phon 4.17, 80 phon 16.0 sone.
  it.each([
    [20, 0.143],
    [60, 4.17],
    [80, 16],
  ])('at %d phon reads %d sone within 5 %%', (phon, value) => {
    expect(Math.abs(sone(1000, phon) / value - 1)).toBeLessThan(0.05)
  })

  // ISO 226:2003, 40 phon (memory); the model's authors report it a few dB lower at low frequencies.
  it.each([
    [125, 60.6, 4],
    [250, 50.4, 3],
    [500, 43, 2],
    [2000, 36.7, 2],
    [4000, 34, 3],
    [8000, 51.8, 3],
  ])('%d Hz needs about %d dB SPL to be as loud as 1 kHz at 40 dB', (hz, db, tolerance) => {
    let low = 0
    let high = 110
    for (let i = 0; i < 40; i++) {
      const middle = (low + high) / 2
      if (sone(hz, middle) < 1) low = middle
      else high = middle
    }
    expect(Math.abs(low - db)).toBeLessThan(tolerance)
  })
})

describe('excitation (Glasberg and Moore 1990)', () => {
  it('a rounded-exponential filter is one ERB wide: its area is 4/p to both sides together', () => {
    const p = symmetricSlope(1000)
    let area = 0
    for (let g = 0; g < 2; g += 1e-5) area += 2 * roex(p, g) * 1e-5
    expect(area * 1000).toBeCloseTo(132.6, 0)
  })

  it('is the same when only what changes is computed again', () => {
    const levels = fc.array(fc.double({ min: -30, max: 100, noNaN: true }), {
      minLength: FILTER_COUNT,
      maxLength: FILTER_COUNT,
    })
    const band = fc.integer({ min: 0, max: FILTER_COUNT })
    fc.assert(
      fc.property(
        levels,
        band,
        band,
        fc.double({ min: -30, max: 20, noNaN: true }),
        (db, a, b, by) => {
          const [from, to] = [Math.min(a, b), Math.max(a, b)]
          const before = db.map((v) => 10 ** (v / 10))
          const after = before.map((v, i) => (i >= from && i < to ? v * 10 ** (by / 10) : v))
          const changed = excitation(before, new Float64Array(FILTER_COUNT))
          changeExcitation(changed, before, after, from, to)
          excitation(after, new Float64Array(FILTER_COUNT)).forEach((v, i) => {
            expect(Math.abs(changed[i] - v)).toBeLessThanOrEqual(1e-6 * v + 1e-6)
          })
        },
      ),
      { numRuns: 60 },
    )
  })

  it('spreads upwards more than downwards when loud, and more so the louder', () => {
    const skew = (db: number) => {
      const e = pattern(1000, db)
      const at = (hz: number) => {
        const i = FILTER_HZ.findIndex((f) => f >= hz)
        return 10 * Math.log10(e[i])
      }
      return at(1500) - at(667)
    }
    expect(skew(80)).toBeGreaterThan(10)
    expect(skew(80)).toBeGreaterThan(skew(60) + 5)
  })
})

const track = (signal: Float32Array, gainDb = 0): MaskingTrack => ({
  bands: hearingBands(makeClip(48000, [signal])),
  gainDb,
})
const mask = (tracks: MaskingTrack[]) =>
  maskFrames(tracks, DEFAULT_CALIBRATION, 'stereo', 0, tracks[0].bands.frames)
const toneRms = (db: number) => 10 ** (db / 20) * Math.SQRT2

describe('partial loudness', () => {
  it('silence masks nothing', () => {
    const sums = mask([track(sine(1000, 0.5, 48000, 0.05)), track(new Float32Array(24000))])
    expect(trackMasking(sums, 0).audibleShare).toBeGreaterThan(0.999)
  })

  // Hawkins and Stevens 1950: critical ratio about 18 dB at 1 kHz (memory), rising with frequency.
  it.each([
    [500, 17],
    [1000, 18],
    [2000, 20],
    [4000, 22],
  ])(
    'a %d Hz tone in white noise vanishes near %d dB above the noise per hertz and comes back above it',
    (hz, ratioDb) => {
      const noise = whiteNoise(96000, 5, 0.05)
      const densityDb = 10 * Math.log10(0.05 ** 2 / 3 / 24000)
      const share = (db: number) => {
        const tone = sine(hz, 2, 48000, toneRms(densityDb + db))
        return trackMasking(mask([track(tone), track(noise)]), 0).audibleShare
      }
      expect(share(ratioDb - 6)).toBeLessThan(0.06)
      expect(share(ratioDb + 15)).toBeGreaterThan(1 / 3)
      expect(share(ratioDb + 35)).toBeGreaterThan(0.6)
    },
  )

  it('the shares of several maskers add up to the loss', () => {
    const sums = mask([
      track(sine(1000, 0.5, 48000, 0.02)),
      track(whiteNoise(24000, 1, 0.03)),
      track(whiteNoise(24000, 2, 0.02)),
      track(sine(800, 0.5, 48000, 0.1)),
    ])
    const { aloneSone, inMixSone } = trackMasking(sums, 0)
    const shares = [1, 2, 3].map((m) => pairMasking(sums, 0, m).lostSone)
    expect(shares.reduce((a, b) => a + b)).toBeCloseTo(aloneSone - inMixSone, 9)
    expect(Math.min(...shares)).toBeGreaterThan(0)
  })

  it('does not depend on the order of tracks', () => {
    const a = track(sine(500, 0.5, 48000, 0.05))
    const b = track(whiteNoise(24000, 3, 0.05))
    const c = track(sine(700, 0.5, 48000, 0.2))
    const forth = mask([a, b, c])
    const back = mask([c, b, a])
    expect(trackMasking(back, 2).inMixSone).toBeCloseTo(trackMasking(forth, 0).inMixSone, 9)
    expect(pairMasking(back, 2, 0).lostSone).toBeCloseTo(pairMasking(forth, 0, 2).lostSone, 9)
  })

  it('a low masker covers a high tone more than a high masker covers a low tone', () => {
    const low = track(sine(500, 0.5, 48000, 0.3))
    const high = track(sine(1000, 0.5, 48000, 0.03))
    const lowQuiet = track(sine(500, 0.5, 48000, 0.03))
    const highLoud = track(sine(1000, 0.5, 48000, 0.3))
    const up = trackMasking(mask([high, low]), 0).audibleShare
    const down = trackMasking(mask([lowQuiet, highLoud]), 0).audibleShare
    expect(up).toBeLessThan(down - 0.05)
  })
})

it('band power counts both channels, and a mono clip as both at -3 dB', () => {
  const tone = sine(1000, 0.5, 48000, 0.5)
  const mono = hearingBands(makeClip(48000, [tone]))
  const half = tone.map((v) => v * Math.SQRT1_2)
  const stereo = hearingBands(makeClip(48000, [half, half]))
  const peak = (v: Float32Array) => v.reduce((a, b) => Math.max(a, b), 0)
  expect(peak(mono.mid) / peak(stereo.mid)).toBeCloseTo(1, 3)
  expect(peak(stereo.side)).toBeLessThan(1e-9)
})

describe('long passages', () => {
  const noise = whiteNoise(100 * 8000, 5, 0.2)
  const bandsOf = (signal: Float32Array, longest?: number) =>
    hearingBands(makeClip(8000, [signal]), longest)
  const meanDb = (bands: ReturnType<typeof bandsOf>, filter: number) => {
    let sum = 0
    for (let f = 0; f < bands.frames; f++) sum += bands.mid[f * FILTER_COUNT + filter]
    return 10 * Math.log10(sum / bands.frames)
  }

  it('are measured in rows of frames, a quarter of the time, with the same mean', () => {
    const sparse = bandsOf(noise)
    const dense = bandsOf(noise.subarray(0, 80 * 8000))
    expect(sparse.frames * sparse.secondsPerFrame).toBeGreaterThan(98)
    expect(sparse.frames * sparse.secondsPerFrame).toBeLessThan(102)
    expect(sparse.frames / dense.frames).toBeLessThan(0.33)
    for (const filter of [40, 70, 100]) {
      expect(Math.abs(meanDb(sparse, filter) - meanDb(dense, filter))).toBeLessThan(0.5)
    }
  })

  it('line up with shorter ones: a sound covers what sounds with it, not what comes later', () => {
    const silence = new Float32Array(noise.length)
    const late = silence.slice()
    late.set(noise.subarray(70 * 8000, 90 * 8000), 70 * 8000)
    const early = noise.slice(0, 20 * 8000)
    const tracks = [early, late].map((s) => ({ bands: bandsOf(s, noise.length), gainDb: 0 }))
    const sums = maskFrames(tracks, DEFAULT_CALIBRATION, 'stereo', 0, tracks[1].bands.frames)
    expect(trackMasking(sums, 0).audibleShare).toBeGreaterThan(0.99)
    expect(trackMasking(sums, 1).audibleShare).toBeGreaterThan(0.99)
  })
})
