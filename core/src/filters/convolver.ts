import { type PartitionFft, partitionFft, type Spectrum } from '../spectrum'

/**
 * The partition that suits a length, in frames: long enough to be cheap, short enough for an even load in
 * blocks of 128 frames.
 */
export function partitionFor(taps: number): number {
  return taps >= 32768 ? 512 : taps >= 4096 ? 256 : 128
}

/**
 * Convolution of one channel with a long kernel by uniformly partitioned overlap-save (Stockham 1966;
 * Kulp 1988). The products of past partitions are spread over the time until they are due, so that every
 * block costs about the same. Takes blocks of any length; the result does not depend on it.
 */
export class Convolver {
  readonly #size: number
  readonly #fft: PartitionFft
  #kernel: Spectrum[]
  /** A kernel that comes next, faded in over one partition. */
  #next: Spectrum[] | null = null
  #entering = false
  /** Spectra of past input, newest at `#newest`. */
  readonly #past: Spectrum[]
  #newest = 0
  readonly #input: Float32Array
  readonly #output: Float32Array
  readonly #block: Float32Array
  readonly #sum: Spectrum
  readonly #nextSum: Spectrum
  #at = 0
  #summed = 1

  /** @param mostTaps the longest kernel that will be set later. */
  constructor(taps: Float32Array, mostTaps = taps.length) {
    const size = partitionFor(mostTaps)
    this.#size = size
    this.#fft = partitionFft(2 * size)
    this.#kernel = this.#transform(taps)
    const count = Math.max(this.#kernel.length, Math.ceil(mostTaps / size))
    this.#past = Array.from({ length: count }, () => this.#fft.create())
    this.#input = new Float32Array(2 * size)
    this.#output = new Float32Array(size)
    this.#block = new Float32Array(2 * size)
    this.#sum = this.#fft.create()
    this.#nextSum = this.#fft.create()
  }

  /** Frames by which the output is late, besides what the kernel itself delays. */
  get latency(): number {
    return this.#size
  }

  /**
   * Changes to another kernel without a click. Not for use within `process`: it allocates.
   * @throws RangeError when the kernel is longer than the convolver was made for.
   */
  set(taps: Float32Array): void {
    if (taps.length > this.#past.length * this.#size) {
      throw new RangeError('The kernel is longer than this convolver was made for.')
    }
    if (this.#next) this.#release(this.#next)
    this.#next = this.#transform(taps)
    if (this.#entering) this.#fft.clear(this.#nextSum)
    this.#entering = false
  }

  reset(): void {
    for (const spectrum of this.#past) this.#fft.clear(spectrum)
    this.#fft.clear(this.#sum)
    this.#fft.clear(this.#nextSum)
    this.#input.fill(0)
    this.#output.fill(0)
    this.#at = 0
    this.#summed = 1
    if (this.#next) {
      this.#release(this.#kernel)
      this.#kernel = this.#next
    }
    this.#next = null
    this.#entering = false
  }

  /** Gives its memory back; the convolver is not to be used any more. */
  dispose(): void {
    this.#release(this.#kernel)
    if (this.#next) this.#release(this.#next)
    this.#release([...this.#past, this.#sum, this.#nextSum])
  }

  /** Filters `frames` samples of `channel` from `from` on, in place. */
  process(channel: Float32Array, from: number, frames: number): void {
    const size = this.#size
    let done = 0
    while (done < frames) {
      const count = Math.min(frames - done, size - this.#at)
      for (let i = 0; i < count; i++) {
        const place = this.#at + i
        const x = channel[from + done + i]
        channel[from + done + i] = this.#output[place]
        this.#input[size + place] = x
      }
      this.#at += count
      done += count
      this.#sumUpTo(this.#at / size)
      if (this.#at === size) this.#turn()
    }
  }

  #transform(taps: Float32Array): Spectrum[] {
    const size = this.#size
    const block = new Float32Array(2 * size)
    return Array.from({ length: Math.max(1, Math.ceil(taps.length / size)) }, (_, p) => {
      block.fill(0)
      block.set(taps.subarray(p * size, (p + 1) * size))
      const spectrum = this.#fft.create()
      this.#fft.forward(block, spectrum)
      return spectrum
    })
  }

  #release(spectra: readonly Spectrum[]): void {
    for (const spectrum of spectra) this.#fft.release(spectrum)
  }

  /** Adds products of past partitions until a share of them is done. */
  #sumUpTo(share: number): void {
    const next = this.#entering ? this.#next : null
    const count = Math.max(this.#kernel.length, next?.length ?? 0)
    const due = Math.min(count, 1 + Math.ceil((count - 1) * share))
    const held = this.#past.length
    for (let p = this.#summed; p < due; p++) {
      // Partition p meets the input of p turns before the one that is being filled.
      const spectrum = this.#past[(this.#newest + held - (p - 1)) % held]
      if (p < this.#kernel.length) this.#fft.multiplyAdd(this.#sum, spectrum, this.#kernel[p])
      if (next && p < next.length) this.#fft.multiplyAdd(this.#nextSum, spectrum, next[p])
    }
    if (due > this.#summed) this.#summed = due
  }

  /** A partition of input is complete: its spectrum joins the past, and the next output is made. */
  #turn(): void {
    const size = this.#size
    this.#newest = (this.#newest + 1) % this.#past.length
    const spectrum = this.#past[this.#newest]
    this.#fft.forward(this.#input, spectrum)
    this.#input.copyWithin(0, size)
    this.#fft.multiplyAdd(this.#sum, spectrum, this.#kernel[0])
    this.#fft.inverse(this.#sum, this.#block)
    for (let i = 0; i < size; i++) this.#output[i] = this.#block[size + i]
    if (this.#entering && this.#next) this.#enter(this.#next, spectrum)
    else if (this.#next) this.#entering = true
    this.#fft.clear(this.#sum)
    this.#at = 0
    this.#summed = 1
  }

  /** Fades the output from the old kernel's to the new one's, which then takes its place. */
  #enter(next: Spectrum[], spectrum: Spectrum): void {
    const size = this.#size
    this.#fft.multiplyAdd(this.#nextSum, spectrum, next[0])
    this.#fft.inverse(this.#nextSum, this.#block)
    for (let i = 0; i < size; i++) {
      const t = (i + 1) / size
      this.#output[i] += t * t * (3 - 2 * t) * (this.#block[size + i] - this.#output[i])
    }
    this.#fft.clear(this.#nextSum)
    this.#release(this.#kernel)
    this.#kernel = next
    this.#next = null
    this.#entering = false
  }
}
