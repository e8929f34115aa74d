import { type Clip, powerToDb } from '../audio'
import { type Band, sumIntoBands } from './bands'
import { forEachSpectrum } from './stft'

const LONG_TERM = { size: 8192, window: 'hann' } as const
/** Of longer signals, stretches that do not overlap are enough for the mean. */
const DENSE_SECONDS = 90

/**
 * Long-term mean power of each band by Welch's method (1967): Hann, 8192 frames, half overlap.
 * Relative to a mean square of 1, averaged over channels. @param fineLows see {@link LongTermMeter}.
 */
export function longTermPower(clip: Clip, bands: readonly Band[], fineLows = false): Float64Array {
  const meter = new LongTermMeter(clip.channels.length, clip.frames, clip.sampleRateHz, fineLows)
  meter.add(clip.channels)
  return meter.power(bands)
}

/** Windows for the lows, where bands are few of the usual bins wide, and up to where they are taken. */
const LOWS_SECONDS = 0.68
const LOWS_BELOW_HZ = 300
/** Of sounds that are not longer than so many of these windows, nearly all would lie at their edges. */
const LEAST_LOWS = 4

/** {@link longTermPower} of a sound that comes in pieces. */
export class LongTermMeter {
  readonly #usual: Welch
  readonly #lows: Welch | null

  /**
   * @param frames length of the whole.
   * @param fineLows whether the lows are read in windows four times as long: a third of an octave at 31.5 Hz is one bin
   * of the usual ones wide, and takes in what is beside it.
   */
  constructor(
    channels: number,
    frames: number,
    private readonly sampleRateHz: number,
    fineLows = false,
  ) {
    const isDense = isShort(frames, sampleRateHz)
    const size = 2 ** Math.round(Math.log2(LOWS_SECONDS * sampleRateHz))
    this.#usual = new Welch(channels, LONG_TERM.size, isDense)
    this.#lows = fineLows && frames >= LEAST_LOWS * size ? new Welch(channels, size, isDense) : null
  }

  /** Takes the next piece. */
  add(piece: readonly Float32Array[]): void {
    this.#usual.add(piece)
    this.#lows?.add(piece)
  }

  /** Mean power of each band. A sound that is shorter than one window is filled up with silence. */
  power(bands: readonly Band[]): Float64Array {
    const usual = this.#usual.mean(this.sampleRateHz, bands)
    const lows = this.#lows?.mean(this.sampleRateHz, bands)
    return lows ? usual.map((p, i) => (bands[i].toHz < LOWS_BELOW_HZ ? lows[i] : p)) : usual
  }

  /** {@link power} in dB: a full-scale sine reads -3.01 dB in its band. */
  levels(bands: readonly Band[]): Float64Array {
    return this.power(bands).map(powerToDb)
  }
}

/** Sums of power spectra of one size over a sound that comes in pieces. */
class Welch {
  readonly #power: Float64Array
  #spectra = 0
  readonly #hop: number
  readonly #held: Float32Array[]
  #count = 0

  constructor(
    channels: number,
    private readonly size: number,
    isDense: boolean,
  ) {
    this.#power = new Float64Array(size / 2 + 1)
    this.#hop = (isDense ? 0.5 : 1) * size
    this.#held = Array.from({ length: channels }, () => new Float32Array(size))
  }

  add(piece: readonly Float32Array[]): void {
    const frames = piece[0].length
    for (let at = 0; at < frames; ) {
      const taken = Math.min(frames - at, this.size - this.#count)
      this.#held.forEach((held, c) => {
        held.set(piece[c].subarray(at, at + taken), this.#count)
      })
      this.#count += taken
      at += taken
      if (this.#count < this.size) return
      this.#measure()
      for (const held of this.#held) held.copyWithin(0, this.#hop)
      this.#count = this.size - this.#hop
    }
  }

  #measure(): void {
    const settings = { window: LONG_TERM.window, size: this.size, hop: this.#hop }
    for (const held of this.#held) {
      forEachSpectrum(held, settings, (power) => {
        addInto(this.#power, power)
        this.#spectra++
      })
    }
  }

  mean(sampleRateHz: number, bands: readonly Band[]): Float64Array {
    if (this.#spectra === 0) {
      for (const held of this.#held) held.fill(0, this.#count)
      this.#measure()
    }
    return meanInBands([{ power: this.#power, spectra: this.#spectra }], sampleRateHz, bands)
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
  const mean = new Float64Array(sums[0].power.length)
  for (const { power } of sums) addInto(mean, power)
  const spectra = sums.reduce((n, s) => n + s.spectra, 0)
  for (let i = 0; i < mean.length; i++) mean[i] /= spectra
  return sumIntoBands(mean, sampleRateHz / (2 * (mean.length - 1)), bands)
}

/** {@link longTermPower} in dB: a full-scale sine reads -3.01 dB in its band. */
export function longTermLevels(clip: Clip, bands: readonly Band[], fineLows = false): Float64Array {
  return longTermPower(clip, bands, fineLows).map(powerToDb)
}

function addInto(sum: Float64Array, values: Float64Array): void {
  for (let i = 0; i < sum.length; i++) sum[i] += values[i]
}
