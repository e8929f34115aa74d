/**
 * Quantises to whole steps with triangular dither of two steps peak to peak, which makes the first
 * two moments of the error independent of the signal (Lipshitz, Wannamaker and Vanderkooy 1992). The difference of
 * the two halves of one random word is such a dither (xorshift, Marsaglia 2003).
 */
export class Dither {
  #state: number

  /** @param seed a number that is not 0: the same seed, the same dither. */
  constructor(seed: number) {
    this.#state = seed | 0
  }

  /**
   * Quantises the first `frames` of a signal, ±1 full scale, held within the range of the word.
   * @param bits word length, at most 24; full scale is 2^(bits-1) steps.
   * @param out gets the step numbers, from `at` on and `stride` apart.
   */
  quantise(
    signal: Float32Array,
    frames: number,
    bits: number,
    out: Int32Array,
    at = 0,
    stride = 1,
  ): void {
    const full = 2 ** (bits - 1)
    let s = this.#state
    for (let i = 0, to = at; i < frames; i++, to += stride) {
      s ^= s << 13
      s ^= s >>> 17
      s ^= s << 5
      const noise = ((s & 0xffff) - (s >>> 16)) / 65536
      const step = Math.floor(signal[i] * full + noise + 0.5)
      out[to] = step < -full ? -full : step > full - 1 ? full - 1 : step
    }
    this.#state = s
  }
}
