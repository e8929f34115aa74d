import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { whiteNoise } from '../testing/signals'
import { glidingVoice } from '../testing/sounds'
import { DEFAULT_CALIBRATION, readIntelligibility, SII_BANDS, speechIntelligibility } from '.'

const usual = SII_BANDS.map((b) => b.speechDb)
const quiet = SII_BANDS.map(() => -100)
const over = (db: number) => usual.map((level) => level + db)

describe('the Speech Intelligibility Index (ANSI S3.5-1997, third octaves)', () => {
  it('has importances that add up to one, and a spectrum of speech of 62.35 dB in all', () => {
    const sum = SII_BANDS.reduce((total, b) => total + b.importance, 0)
    expect(sum).toBeCloseTo(1, 3)
    // The standard gives normal effort as 62.35 dB SPL; thirds are 0.2316 of their middle wide.
    const power = SII_BANDS.reduce(
      (total, { hz, speechDb }) => total + 10 ** (speechDb / 10) * 0.2316 * hz,
      0,
    )
    expect(10 * Math.log10(power)).toBeCloseTo(62.35, 0)
  })

  it('is one for usual speech in quiet, and nothing where noise is 15 dB over it', () => {
    expect(speechIntelligibility(usual, quiet).sii).toBeGreaterThan(0.98)
    expect(speechIntelligibility(usual, over(16)).sii).toBe(0)
  })

  it('is about a half beside noise of the spectrum of speech as loud as it', () => {
    // (0 + 15) / 30 in each band, less what noise spreads upwards.
    const { sii } = speechIntelligibility(usual, usual)
    expect(sii).toBeGreaterThan(0.42)
    expect(sii).toBeLessThanOrEqual(0.5)
    // A thirtieth for each decibel.
    expect(speechIntelligibility(usual, over(-3)).sii - sii).toBeCloseTo(0.1, 1)
  })

  it('falls with speech that is far louder than usual, and with what is under the threshold', () => {
    expect(speechIntelligibility(over(60), quiet).sii).toBeLessThan(0.75)
    expect(speechIntelligibility(over(-40), quiet).sii).toBeLessThan(0.6)
  })

  it('lies between none and all, and never rises with noise', () => {
    const levels = fc.array(fc.double({ min: -60, max: 90, noNaN: true }), {
      minLength: SII_BANDS.length,
      maxLength: SII_BANDS.length,
    })
    fc.assert(
      fc.property(
        levels,
        levels,
        fc.double({ min: 0, max: 30, noNaN: true }),
        (speech, noise, db) => {
          const { sii, audibility } = speechIntelligibility(speech, noise)
          expect(sii).toBeGreaterThanOrEqual(0)
          expect(sii).toBeLessThanOrEqual(1.001)
          for (const a of audibility) expect(a >= 0 && a <= 1).toBe(true)
          const more = speechIntelligibility(
            speech,
            noise.map((v) => v + db),
          ).sii
          expect(more).toBeLessThanOrEqual(sii + 1e-9)
        },
      ),
    )
  })
})

describe('how well a voice is understood', () => {
  const RATE = 48000
  const voice = glidingVoice(7, 4, 110, 180)
  // Half of it is silence.
  const spoken = makeClip(RATE, [voice.map((v, i) => (i < 2 * RATE ? v : 0))])
  const noise = (gain: number) => makeClip(RATE, [whiteNoise(4 * RATE, 3, gain)])

  it('is read where it sounds, word by word, and falls with noise', () => {
    const alone = readIntelligibility(spoken, [], DEFAULT_CALIBRATION)
    expect(alone?.overTime.length).toBeGreaterThanOrEqual(4)
    expect(alone?.overTime.every((s) => s.seconds < 2.4)).toBe(true)
    const indices = [0.001, 0.05, 1].map(
      (gain) => readIntelligibility(spoken, [noise(gain)], DEFAULT_CALIBRATION)?.sii ?? 1,
    )
    expect(alone?.sii).toBeGreaterThan(indices[0] - 1e-9)
    expect(indices[0]).toBeGreaterThan(indices[1])
    expect(indices[1]).toBeGreaterThan(indices[2])
    expect(indices[2]).toBeLessThan(0.3)
  })

  it('is nothing that can be told of silence', () => {
    const silence = makeClip(RATE, [new Float32Array(RATE)])
    expect(readIntelligibility(silence, [], DEFAULT_CALIBRATION)).toBeNull()
  })
})
