import { hzToErbNumber, makeWindow, realFft } from '../spectrum'

/** Length of a frame at 48 kHz and thereabouts, and frames that overlap at each place. */
const FRAME_SECONDS = 0.0427
const OVERLAP = 8
/** A gain under this is none, in dB. */
const NOTHING_DB = 1e-3
/** From dB to the exponent of an amplitude. */
const NEPER = Math.LN10 / 20

/** Which part of a stereo sound is treated; the other passes, as late. */
type Part = 'stereo' | 'mid' | 'side'

/** Frames of sound in one transform of {@link LinearBank}; it is late by as many. */
export function linearBankFrames(sampleRateHz: number): number {
  return 2 ** Math.round(Math.log2(FRAME_SECONDS * sampleRateHz))
}

/**
 * Gains over frequency that move from frame to frame and turn no phase: spectra of overlapping frames under the square
 * root of a Hann window, multiplied and added up again. Between the middles of its bands gains run in straight lines in
 * dB over the ERB scale, and to nothing one band beyond the first and last. Late by one frame. Without gains it adds up
 * to what came in, to the rounding of 32-bit floats.
 */
export class LinearBank {
  readonly frames: number
  readonly hop: number
  readonly #window: Float32Array
  /** The frame's sound, and what is made, channel by channel. */
  readonly #in: Float32Array[]
  readonly #out: Float32Array[]
  readonly #work: Float32Array
  readonly #spectrum: Float32Array
  /** For each bin the band below it, and how far it lies towards the next. */
  readonly #band: Int16Array
  readonly #share: Float32Array
  /** Gains in dB with a zero at either end. */
  readonly #gains: Float64Array
  readonly #factors: Float32Array
  #at = 0

  /** @param middlesHz of its bands, evenly spaced over the ERB scale, from low to high. */
  constructor(
    middlesHz: readonly number[],
    sampleRateHz: number,
    private readonly channels: number,
    private readonly part: Part,
  ) {
    this.frames = linearBankFrames(sampleRateHz)
    this.hop = this.frames / OVERLAP
    this.#window = Float32Array.from(makeWindow('hann', this.frames), Math.sqrt)
    const rooms = () => Array.from({ length: channels }, () => new Float32Array(this.frames))
    this.#in = rooms()
    this.#out = rooms()
    this.#work = new Float32Array(this.frames)
    this.#spectrum = new Float32Array(this.frames + 2)
    const bins = this.frames / 2 + 1
    this.#band = new Int16Array(bins)
    this.#share = new Float32Array(bins)
    this.#gains = new Float64Array(middlesHz.length + 2)
    this.#factors = new Float32Array(bins)
    const erb = middlesHz.map(hzToErbNumber)
    const step = erb.length > 1 ? (erb[erb.length - 1] - erb[0]) / (erb.length - 1) : 1
    for (let k = 0; k < bins; k++) {
      const place = (hzToErbNumber((k * sampleRateHz) / this.frames) - erb[0]) / step + 1
      const held = Math.max(0, Math.min(erb.length + 1, place))
      this.#band[k] = Math.min(erb.length, Math.floor(held))
      this.#share[k] = held - this.#band[k]
    }
  }

  /** A band's gain from the next frame on, in dB. */
  setGain(band: number, db: number): void {
    this.#gains[band + 1] = db
  }

  /** Takes up to a hop of sound and gives what is made in its place; {@link step} is due when one is full. */
  exchange(channels: readonly Float32Array[], from: number, count: number): void {
    const into = this.frames - this.hop + this.#at
    for (let c = 0; c < this.channels; c++) {
      const [taken, made, sound] = [this.#in[c], this.#out[c], channels[c]]
      for (let i = 0; i < count; i++) {
        taken[into + i] = sound[from + i]
        sound[from + i] = made[this.#at + i]
      }
    }
    this.#at += count
  }

  /** Makes the next hop from the last frame of sound. @param blend share of what is treated. */
  step(blend: number): void {
    const isTreated = this.#draw(blend)
    for (const made of this.#out) {
      made.copyWithin(0, this.hop)
      made.fill(0, this.frames - this.hop)
    }
    if (this.channels === 1 || this.part === 'stereo') {
      for (let c = 0; c < this.channels; c++) this.#make(this.#in[c], null, 1, isTreated, c)
    } else {
      const [left, right] = this.#in
      this.#make(left, right, 1, isTreated && this.part === 'mid', 0)
      this.#make(left, right, -1, isTreated && this.part === 'side', 0)
    }
    for (const taken of this.#in) taken.copyWithin(0, this.hop)
    this.#at = 0
  }

  /** Factors for all bins; false where they change nothing. */
  #draw(blend: number): boolean {
    let most = 0
    for (let b = 0; b < this.#gains.length; b++) most = Math.max(most, Math.abs(this.#gains[b]))
    if (most < NOTHING_DB || blend === 0) return false
    for (let k = 0; k < this.#factors.length; k++) {
      const b = this.#band[k]
      const low = this.#gains[b]
      const db = low + this.#share[k] * (this.#gains[b + 1] - low)
      this.#factors[k] = db === 0 ? 1 : 1 + blend * (Math.exp(db * NEPER) - 1)
    }
    return true
  }

  /**
   * Adds a frame to what is made: of one sound to its channel, or of `(one + sign · other) / 2` to both.
   */
  #make(
    one: Float32Array,
    other: Float32Array | null,
    sign: number,
    isTreated: boolean,
    channel: number,
  ): void {
    const work = this.#work
    const window = this.#window
    const { frames } = this
    if (other) {
      for (let i = 0; i < frames; i++) work[i] = ((one[i] + sign * other[i]) / 2) * window[i]
    } else for (let i = 0; i < frames; i++) work[i] = one[i] * window[i]
    if (isTreated) {
      const fft = realFft(this.frames)
      fft.forward(work, this.#spectrum)
      const [spectrum, factors] = [this.#spectrum, this.#factors]
      for (let k = 0; k < factors.length; k++) {
        spectrum[2 * k] *= factors[k]
        spectrum[2 * k + 1] *= factors[k]
      }
      fft.inverse(spectrum, work)
    }
    // Squared, the windows of all frames at a place add up to half of their number.
    const scale = 2 / OVERLAP
    const made = this.#out[channel]
    let sum = 0
    for (let i = 0; i < frames; i++) {
      work[i] *= window[i] * scale
      sum += work[i]
    }
    // A frame that holds what is no number is left out.
    if (!Number.isFinite(sum)) return
    for (let i = 0; i < frames; i++) made[i] += work[i]
    if (other) for (let i = 0; i < frames; i++) this.#out[1][i] += sign * work[i]
  }

  reset(): void {
    for (const room of [...this.#in, ...this.#out]) room.fill(0)
    this.#gains.fill(0)
    this.#at = 0
  }
}
