import { type Clip, powerToDb } from '../audio'
import { type Band, sumIntoBands } from './bands'
import { forEachSpectrum } from './stft'

const LONG_TERM = { size: 8192, hop: 4096, window: 'hann' } as const
/** Of longer signals, stretches that do not overlap are enough for the mean. */
const DENSE_SECONDS = 90

/**
 * Long-term mean power of each band by Welch's method (1967): Hann, 8192 frames, half overlap.
 * Relative to a mean square of 1, averaged over channels.
 */
export function longTermPower(clip: Clip, bands: readonly Band[]): Float64Array {
  const mean = new Float64Array(LONG_TERM.size / 2 + 1)
  let spectra = 0
  const dense = clip.frames <= DENSE_SECONDS * clip.sampleRateHz
  const settings = dense ? LONG_TERM : { ...LONG_TERM, hop: LONG_TERM.size }
  for (const channel of clip.channels) {
    forEachSpectrum(channel, settings, (power) => {
      addInto(mean, power)
      spectra++
    })
  }
  for (let i = 0; i < mean.length; i++) mean[i] /= spectra
  return sumIntoBands(mean, clip.sampleRateHz / LONG_TERM.size, bands)
}

/** {@link longTermPower} in dB: a full-scale sine reads -3.01 dB in its band. */
export function longTermLevels(clip: Clip, bands: readonly Band[]): Float64Array {
  return longTermPower(clip, bands).map(powerToDb)
}

function addInto(sum: Float64Array, values: Float64Array): void {
  for (let i = 0; i < sum.length; i++) sum[i] += values[i]
}
