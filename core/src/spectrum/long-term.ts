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
  const meter = new LongTermMeter(clip.channels.length, clip.frames, clip.sampleRateHz)
  meter.add(clip.channels)
  return meter.power(bands)
}

/** {@link longTermPower} of a sound that comes in pieces. */
export class LongTermMeter {
  readonly #power = new Float64Array(LONG_TERM.size / 2 + 1)
  #spectra = 0
  readonly #hop: number
  readonly #held: Float32Array[]
  #count = 0

  /** @param frames length of the whole. */
  constructor(
    channels: number,
    frames: number,
    private readonly sampleRateHz: number,
  ) {
    this.#hop = (isShort(frames, sampleRateHz) ? 0.5 : 1) * LONG_TERM.size
    this.#held = Array.from({ length: channels }, () => new Float32Array(LONG_TERM.size))
  }

  /** Takes the next piece. */
  add(piece: readonly Float32Array[]): void {
    const { size } = LONG_TERM
    const frames = piece[0].length
    for (let at = 0; at < frames; ) {
      const taken = Math.min(frames - at, size - this.#count)
      this.#held.forEach((held, c) => {
        held.set(piece[c].subarray(at, at + taken), this.#count)
      })
      this.#count += taken
      at += taken
      if (this.#count < size) return
      this.#measure()
      for (const held of this.#held) held.copyWithin(0, this.#hop)
      this.#count = size - this.#hop
    }
  }

  #measure(): void {
    for (const held of this.#held) {
      forEachSpectrum(held, { ...LONG_TERM, hop: this.#hop }, (power) => {
        addInto(this.#power, power)
        this.#spectra++
      })
    }
  }

  /** Mean power of each band. A sound that is shorter than one window is filled up with silence. */
  power(bands: readonly Band[]): Float64Array {
    if (this.#spectra === 0) {
      for (const held of this.#held) held.fill(0, this.#count)
      this.#measure()
    }
    const sum = { power: this.#power, spectra: this.#spectra }
    return meanInBands([sum], this.sampleRateHz, bands)
  }

  /** {@link power} in dB: a full-scale sine reads -3.01 dB in its band. */
  levels(bands: readonly Band[]): Float64Array {
    return this.power(bands).map(powerToDb)
  }
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
