import { type Clip, powerToDb } from '../audio'
import { type Band, sumIntoBands } from './bands'
import { forEachSpectrum } from './stft'

const LONG_TERM = { size: 8192, window: 'hann' } as const
/** Of longer signals, stretches that do not overlap are enough for the mean. */
const DENSE_SECONDS = 90

/**
 * Long-term mean power of each band by Welch's method (1967): Hann, 8192 frames, half overlap.
 * Relative to a mean square of 1, averaged over channels.
 */
export function longTermPower(clip: Clip, bands: readonly Band[]): Float64Array {
  const sum = sumSpectra(clip, isShort(clip.frames, clip.sampleRateHz) ? 0.5 : 1)
  return meanInBands([sum], clip.sampleRateHz, bands)
}

/** Sum of power spectra over a stretch and its channels, and how many they were. */
export interface SpectrumSum {
  readonly power: Float64Array
  readonly spectra: number
}

/** Whether a signal of this length has to be measured closely. */
export function isShort(frames: number, sampleRateHz: number): boolean {
  return frames <= DENSE_SECONDS * sampleRateHz
}

/** What {@link meanInBands} takes, of one stretch. @param step from one window to the next, in its lengths */
export function sumSpectra(clip: Clip, step: number): SpectrumSum {
  const power = new Float64Array(LONG_TERM.size / 2 + 1)
  let spectra = 0
  const settings = { ...LONG_TERM, hop: step * LONG_TERM.size }
  for (const channel of clip.channels) {
    forEachSpectrum(channel, settings, (frame) => {
      addInto(power, frame)
      spectra++
    })
  }
  return { power, spectra }
}

/** {@link longTermPower} of stretches that were measured apart. */
export function meanInBands(
  sums: readonly SpectrumSum[],
  sampleRateHz: number,
  bands: readonly Band[],
): Float64Array {
  const mean = new Float64Array(LONG_TERM.size / 2 + 1)
  for (const { power } of sums) addInto(mean, power)
  const spectra = sums.reduce((n, s) => n + s.spectra, 0)
  for (let i = 0; i < mean.length; i++) mean[i] /= spectra
  return sumIntoBands(mean, sampleRateHz / LONG_TERM.size, bands)
}

/** {@link longTermPower} in dB: a full-scale sine reads -3.01 dB in its band. */
export function longTermLevels(clip: Clip, bands: readonly Band[]): Float64Array {
  return longTermPower(clip, bands).map(powerToDb)
}

function addInto(sum: Float64Array, values: Float64Array): void {
  for (let i = 0; i < sum.length; i++) sum[i] += values[i]
}
