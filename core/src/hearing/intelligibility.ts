import type { Clip } from '../audio'
import { makeBands, powerSpectrum, sumIntoBands } from '../spectrum'
import type { Calibration } from './hearing-bands'

/**
 * The Speech Intelligibility Index by the third-octave procedure of ANSI S3.5-1997, for a listener of normal hearing:
 * nominal frequencies 160 Hz to 8 kHz, with the importance of each band for average speech, the spectrum of speech at
 * normal effort, and the internal noise that stands for the threshold of hearing, both in dB SPL per hertz. Quoted from
 * memory; tests hold them against what the standard says of them (docs/hearing.md).
 */
export const SII_BANDS = [
  { hz: 160, importance: 0.0083, speechDb: 32.41, internalDb: 0.6 },
  { hz: 200, importance: 0.0095, speechDb: 34.48, internalDb: -1.7 },
  { hz: 250, importance: 0.015, speechDb: 34.75, internalDb: -3.9 },
  { hz: 315, importance: 0.0289, speechDb: 33.98, internalDb: -6.1 },
  { hz: 400, importance: 0.044, speechDb: 34.59, internalDb: -8.2 },
  { hz: 500, importance: 0.0578, speechDb: 34.27, internalDb: -9.7 },
  { hz: 630, importance: 0.0653, speechDb: 32.06, internalDb: -10.8 },
  { hz: 800, importance: 0.0711, speechDb: 28.3, internalDb: -11.9 },
  { hz: 1000, importance: 0.0818, speechDb: 25.01, internalDb: -12.5 },
  { hz: 1250, importance: 0.0844, speechDb: 23, internalDb: -13.5 },
  { hz: 1600, importance: 0.0882, speechDb: 20.15, internalDb: -15.4 },
  { hz: 2000, importance: 0.0898, speechDb: 17.32, internalDb: -17.7 },
  { hz: 2500, importance: 0.0868, speechDb: 13.18, internalDb: -21.2 },
  { hz: 3150, importance: 0.0844, speechDb: 11.55, internalDb: -24.2 },
  { hz: 4000, importance: 0.0771, speechDb: 9.33, internalDb: -25.9 },
  { hz: 5000, importance: 0.0527, speechDb: 5.31, internalDb: -23.6 },
  { hz: 6300, importance: 0.0364, speechDb: 2.59, internalDb: -15.8 },
  { hz: 8000, importance: 0.0185, speechDb: 1.13, internalDb: -7.1 },
] as const

/** How well speech is understood in noise, band by band. */
export interface SiiReading {
  /** 0 to 1: the part of what matters to understanding that is there. */
  readonly sii: number
  /** Audibility of each of {@link SII_BANDS}, 0 to 1. */
  readonly audibility: Float64Array
}

/** Speech covers itself 24 dB under its own level. */
const SELF_DB = 24
/** Speech has peaks 15 dB over its mean, and 30 dB between them and its troughs. */
const PEAKS_DB = 15
const DYNAMIC_DB = 30
const LEAST_DB = -100

/**
 * Index of speech in noise. @param speechDb, noiseDb spectrum levels of each of {@link SII_BANDS}, in dB SPL per hertz, as they
 * reach the listener.
 */
export function speechIntelligibility(
  speechDb: ArrayLike<number>,
  noiseDb: ArrayLike<number>,
): SiiReading {
  const masking: { readonly b: number; readonly slope: number }[] = []
  let sii = 0
  const audibility = Float64Array.from(SII_BANDS, (band, i) => {
    const [speech, noise] = [speechDb[i], noiseDb[i]].map((db) => Math.max(LEAST_DB, db))
    const b = Math.max(noise, speech - SELF_DB)
    // Noise spreads upwards, from each band below.
    let masked = 10 ** (noise / 10)
    masking.forEach((below, k) => {
      const spread = below.b + 3.32 * below.slope * Math.log10((0.89 * band.hz) / SII_BANDS[k].hz)
      masked += 10 ** (spread / 10)
    })
    masking.push({ b, slope: -80 + 0.6 * (b + 10 * Math.log10(band.hz) - 6.353) })
    const disturbance = Math.max(10 * Math.log10(masked), band.internalDb)
    // What is far louder than usual is distorted.
    const level = Math.min(1, 1 - (speech - band.speechDb - 10) / 160)
    const above = (speech - disturbance + PEAKS_DB) / DYNAMIC_DB
    const heard = Math.max(0, Math.min(1, level * Math.max(0, Math.min(1, above))))
    sii += band.importance * heard
    return heard
  })
  return { sii, audibility }
}

/** How well a voice is understood beside others. */
export interface Intelligibility extends SiiReading {
  /** Each stretch of {@link STRETCH_SECONDS} in which the voice sounds: its middle, and the index there. */
  readonly overTime: readonly { readonly seconds: number; readonly sii: number }[]
}

/** About as long as a word. */
export const STRETCH_SECONDS = 0.4
/** Stretches this far under the voice's loudest are pauses. */
const PAUSE_DB = 30
const THIRDS = makeBands('third')
const AT = SII_BANDS.map(({ hz }) =>
  THIRDS.reduce(
    (best, band, i) =>
      Math.abs(Math.log(band.hz / hz)) < Math.abs(Math.log(THIRDS[best].hz / hz)) ? i : best,
    0,
  ),
)
const SIZE_SECONDS = 0.17

/**
 * Reads how well a voice is understood beside what else sounds, word by word; the whole is the mean over the stretches in
 * which the voice sounds. Null where it never does.
 * @param voice and `others` of one rate from the same start, at their levels in the mix; of channels the middle counts.
 */
export function readIntelligibility(
  voice: Clip,
  others: readonly Clip[],
  { lufs, dbSpl }: Calibration,
): Intelligibility | null {
  const { sampleRateHz, frames } = voice
  const size = 2 ** Math.round(Math.log2(SIZE_SECONDS * sampleRateHz))
  const measure = powerSpectrum({ size, window: 'hann' })
  const bands = AT.map((i) => THIRDS[i])
  const noise = new Float32Array(frames)
  for (const other of others) {
    const middle = middleOf(other)
    for (let i = 0; i < Math.min(frames, middle.length); i++) noise[i] += middle[i]
  }
  const speech = middleOf(voice)
  const step = Math.round(STRETCH_SECONDS * sampleRateHz)
  const toSpl = dbSpl - lufs
  const stretches: { seconds: number; power: number; speechDb: number[]; noiseDb: number[] }[] = []
  for (let from = 0; from + size <= frames; from += step) {
    const sums = [speech, noise].map((signal) => {
      const total = new Float64Array(bands.length)
      let windows = 0
      for (let at = from; at + size <= Math.min(frames, from + step + size / 2); at += size / 2) {
        const powers = sumIntoBands(measure(signal, at), sampleRateHz / size, bands)
        powers.forEach((power, i) => {
          total[i] += power
        })
        windows++
      }
      return total.map((power) => power / Math.max(1, windows))
    })
    const [speechDb, noiseDb] = sums.map((powers) =>
      Array.from(powers, (power, i) => {
        const { fromHz, toHz } = bands[i]
        return 10 * Math.log10(power / (toHz - fromHz) + 1e-30) + toSpl
      }),
    )
    const power = sums[0].reduce((a, b) => a + b, 0)
    const seconds = (from + Math.min(frames, from + step)) / 2 / sampleRateHz
    stretches.push({ seconds, power, speechDb, noiseDb })
  }
  const loudest = stretches.reduce((most, s) => Math.max(most, s.power), 0)
  const sounding = stretches.filter(
    (s) => s.power > 0 && s.power > loudest * 10 ** (-PAUSE_DB / 10),
  )
  if (sounding.length === 0) return null
  const readings = sounding.map(({ seconds, speechDb, noiseDb }) => ({
    seconds,
    ...speechIntelligibility(speechDb, noiseDb),
  }))
  const mean = (of: (reading: SiiReading) => number) =>
    readings.reduce((sum, r) => sum + of(r), 0) / readings.length
  return {
    sii: mean((r) => r.sii),
    audibility: Float64Array.from(SII_BANDS, (_, i) => mean((r) => r.audibility[i])),
    overTime: readings.map(({ seconds, sii }) => ({ seconds, sii })),
  }
}

/** What both sides have in common; a mono sound stands for both sides at 3 dB less, as it plays in the middle. */
function middleOf({ channels }: Clip): Float32Array {
  const [left, right] = channels
  return right ? left.map((v, i) => (v + right[i]) * Math.SQRT1_2) : left
}
