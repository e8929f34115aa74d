import { describe, expect, it } from 'vitest'
import { seededRandom } from '../audio'
import {
  exactLoudness,
  exactPartialLoudness,
  excitation,
  FILTER_COUNT,
  type SoundComponent,
  specificLoudness,
  specificPartialLoudness,
  toneIntensity,
  totalSone,
} from '.'

function pattern(sound: readonly SoundComponent[]): Float64Array {
  const bands = new Float64Array(FILTER_COUNT)
  for (const { hz, dbSpl } of sound) {
    toneIntensity(hz, dbSpl).forEach((v, i) => {
      bands[i] += v
    })
  }
  return excitation(bands, new Float64Array(FILTER_COUNT))
}
const fast = (sound: readonly SoundComponent[]) =>
  totalSone(specificLoudness(pattern(sound), new Float64Array(FILTER_COUNT)))
const fastPartial = (sound: readonly SoundComponent[], noise: readonly SoundComponent[]) =>
  totalSone(
    specificPartialLoudness(pattern(sound), pattern(noise), null, new Float64Array(FILTER_COUNT)),
  )

/** Noise as lines 10 Hz apart, falling by `slope` dB per octave in density, `dbSpl` in all. */
function noise(dbSpl: number, slope: number): SoundComponent[] {
  const lines = Array.from({ length: 1500 }, (_, i) => 50 + 10 * i)
  const weights = lines.map((hz) => 10 ** ((slope * Math.log2(hz / 1000)) / 10))
  const sum = weights.reduce((a, b) => a + b)
  return lines.map((hz, i) => ({ hz, dbSpl: dbSpl + 10 * Math.log10(weights[i] / sum) }))
}

/** A harmonic sound that falls by 6 dB per octave, as voices and reeds do. */
function harmonics(f0: number, dbSpl: number): SoundComponent[] {
  return Array.from({ length: Math.floor(12000 / f0) }, (_, n) => ({
    hz: f0 * (n + 1),
    dbSpl: dbSpl - 6 * Math.log2(n + 1),
  }))
}

describe('the exact model (Moore, Glasberg and Baer 1997; ANSI S3.4-2007)', () => {
  // Examples of the standard for 1 kHz in a free field (memory).
  it.each([
    [20, 0.143],
    [40, 1],
    [60, 4.17],
    [80, 16],
  ])('reads a 1 kHz tone at %d dB SPL as %d sone within 5 %%', (db, sone) => {
    expect(Math.abs(exactLoudness([{ hz: 1000, dbSpl: db }]) / sone - 1)).toBeLessThan(0.05)
  })

  it('adds loudness across bands: ten tones far apart are louder than one of the same power', () => {
    const spread = Array.from({ length: 10 }, (_, i) => ({ hz: 300 * 1.4 ** i, dbSpl: 50 }))
    expect(exactLoudness(spread)).toBeGreaterThan(3 * exactLoudness([{ hz: 1000, dbSpl: 60 }]))
  })

  it('does not hear a noise that widens within one critical band as louder', () => {
    const band = (width: number) =>
      Array.from({ length: 21 }, (_, i) => ({
        hz: 1000 + (i / 20 - 0.5) * width,
        dbSpl: 60 - 10 * Math.log10(21),
      }))
    expect(exactLoudness(band(80)) / exactLoudness(band(20))).toBeLessThan(1.06)
    expect(exactLoudness(band(1600)) / exactLoudness(band(20))).toBeGreaterThan(1.6)
  })
})

describe('the form for sessions against the exact model', () => {
  const random = seededRandom(4)
  const tones = Array.from(
    { length: 24 },
    () =>
      [Math.round(60 * 200 ** random()), Math.round(35 + 50 * random())] as readonly [
        number,
        number,
      ],
  )
  it.each(tones)('a tone of %d Hz at %d dB SPL within 5 %%', (hz, dbSpl) => {
    const sound = [{ hz, dbSpl }]
    expect(Math.abs(fast(sound) / exactLoudness(sound) - 1)).toBeLessThan(0.05)
  })

  it.each([
    ['pink noise at 73 dB', noise(73, -3)],
    ['white noise at 60 dB', noise(60, 0)],
    ['dense music at 85 dB', noise(85, -4.5)],
    ['a voice at 110 Hz', harmonics(110, 60)],
    ['a voice at 220 Hz', harmonics(220, 66)],
    ['a whistle with overtones', harmonics(1310, 55)],
  ])('%s within 5 %%', (_, sound) => {
    expect(Math.abs(fast(sound) / exactLoudness(sound) - 1)).toBeLessThan(0.05)
  })

  it.each([
    ['beside quiet pink noise', noise(50, -3)],
    ['beside pink noise of its own level', noise(66, -3)],
    ['beside music much louder', noise(75, -4.5)],
  ])('what is left of a voice %s within 5 %% of its loudness', (_, masker) => {
    const voice = harmonics(180, 62)
    const away = fastPartial(voice, masker) - exactPartialLoudness(voice, masker)
    expect(Math.abs(away)).toBeLessThan(0.05 * exactLoudness(voice))
  })

  it.each([250, 500, 1000, 2000, 4000, 8000])(
    'at %d Hz a tone in white noise falls to nothing near the critical ratio and is back 15 dB above',
    (hz) => {
      // Critical ratios of Hawkins and Stevens 1950 (memory): 16 dB up to 500 Hz, 18 at 1 kHz, 26 at 8.
      const ratioDb = { 250: 16, 500: 17, 1000: 18, 2000: 20, 4000: 22, 8000: 26 }[hz] ?? 18
      const masker = noise(70, 0)
      const densityDb = 70 - 10 * Math.log10(15000)
      const left = (above: number) => {
        const tone = [{ hz, dbSpl: densityDb + ratioDb + above }]
        return [exactPartialLoudness(tone, masker), fastPartial(tone, masker)].map(
          (v) => v / exactLoudness(tone),
        )
      }
      for (const share of left(-6)) expect(share).toBeLessThan(0.06)
      for (const share of left(15)) expect(share).toBeGreaterThan(1 / 3)
    },
  )
})
