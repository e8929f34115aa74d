import { type RealFft, realFft } from '../spectrum'

/** Shortest and longest partition, in frames. */
const PARTITIONS = [128, 256, 512] as const

/** The partition that suits a length: long enough to be cheap, short enough for an even load. */
export function partitionFor(taps: number): number {
  return taps >= 8192 ? PARTITIONS[2] : taps >= 2048 ? PARTITIONS[1] : PARTITIONS[0]
}

/** A kernel in the form in which it is convolved: one spectrum per partition. */
class KernelSpectra {
  readonly count: number
  readonly spectra: Float32Array[]

  constructor(taps: Float32Array, size: number, fft: RealFft) {
    this.count = Math.max(1, Math.ceil(taps.length / size))
    const block = new Float32Array(2 * size)
    this.spectra = Array.from({ length: this.count }, (_, p) => {
      block.fill(0)
      block.set(taps.subarray(p * size, (p + 1) * size))
      const spectrum = new Float32Array(2 * size + 2)
      fft.forward(block, spectrum)
      return spectrum
    })
  }
}

/**
 * Convolution of one channel with a long kernel by uniformly partitioned overlap-save (Stockham 1966;
 * Kulp 1988). The products of past partitions are spread over the time until they are due, so that every
 * block costs about the same. Takes blocks of any length; the result does not depend on it.
 */
export class Convolver {
  readonly #size: number
  readonly #fft: RealFft
  #kernel: KernelSpectra
  /** A kernel that comes next, faded in over one partition. */
  #next: KernelSpectra | null = null
  #entering = false
  /** Spectra of past input, newest at `#newest`. */
  readonly #past: Float32Array[]
  #newest = 0
  readonly #input: Float32Array
  readonly #output: Float32Array
  readonly #block: Float32Array
  readonly #sum: Float32Array
  readonly #nextSum: Float32Array
  #at = 0
  #summed = 1

  /** @param mostTaps the longest kernel that will be set later. */
  constructor(taps: Float32Array, mostTaps = taps.length) {
    const size = partitionFor(mostTaps)
    this.#size = size
    this.#fft = realFft(2 * size)
    this.#kernel = new KernelSpectra(taps, size, this.#fft)
    const count = Math.max(this.#kernel.count, Math.ceil(mostTaps / size))
    this.#past = Array.from({ length: count }, () => new Float32Array(2 * size + 2))
    this.#input = new Float32Array(2 * size)
    this.#output = new Float32Array(size)
    this.#block = new Float32Array(2 * size)
    this.#sum = new Float32Array(2 * size + 2)
    this.#nextSum = new Float32Array(2 * size + 2)
  }

  /** Frames by which the output is late, besides what the kernel itself delays. */
  get latency(): number {
    return this.#size
  }

  /** Changes to another kernel without a click. Not for use within `process`: it allocates. */
  set(taps: Float32Array): void {
    this.#next = new KernelSpectra(taps, this.#size, this.#fft)
    if (this.#next.count > this.#past.length) {
      throw new RangeError('The kernel is longer than this convolver was made for.')
    }
    this.#entering = false
  }

  reset(): void {
    for (const spectrum of this.#past) spectrum.fill(0)
    this.#input.fill(0)
    this.#output.fill(0)
    this.#sum.fill(0)
    this.#nextSum.fill(0)
    this.#at = 0
    this.#summed = 1
    if (this.#next) this.#kernel = this.#next
    this.#next = null
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

  /** Adds products of past partitions until a share of them is done. */
  #sumUpTo(share: number): void {
    const count = this.#kernel.count
    const due = Math.min(count, 1 + Math.ceil((count - 1) * share))
    const held = this.#past.length
    for (let p = this.#summed; p < due; p++) {
      // Partition p meets the input of p turns before the one that is being filled.
      const spectrum = this.#past[(this.#newest + held - (p - 1)) % held]
      multiplyAdd(this.#sum, spectrum, this.#kernel.spectra[p])
      if (this.#entering && this.#next && p < this.#next.count) {
        multiplyAdd(this.#nextSum, spectrum, this.#next.spectra[p])
      }
    }
    this.#summed = Math.max(this.#summed, due)
    if (!this.#entering || !this.#next || share < 1) return
    for (let p = count; p < this.#next.count; p++) {
      const spectrum = this.#past[(this.#newest + held - (p - 1)) % held]
      multiplyAdd(this.#nextSum, spectrum, this.#next.spectra[p])
    }
  }

  /** A partition of input is complete: its spectrum joins the past, and the next output is made. */
  #turn(): void {
    const size = this.#size
    this.#newest = (this.#newest + 1) % this.#past.length
    const spectrum = this.#past[this.#newest]
    this.#fft.forward(this.#input, spectrum)
    this.#input.copyWithin(0, size)
    multiplyAdd(this.#sum, spectrum, this.#kernel.spectra[0])
    this.#fft.inverse(this.#sum, this.#block)
    for (let i = 0; i < size; i++) this.#output[i] = this.#block[size + i]
    if (this.#entering && this.#next) {
      multiplyAdd(this.#nextSum, spectrum, this.#next.spectra[0])
      this.#fft.inverse(this.#nextSum, this.#block)
      for (let i = 0; i < size; i++) {
        const t = (i + 1) / size
        this.#output[i] += t * t * (3 - 2 * t) * (this.#block[size + i] - this.#output[i])
      }
      this.#kernel = this.#next
      this.#next = null
      this.#entering = false
    } else if (this.#next) {
      this.#entering = true
    }
    this.#sum.fill(0)
    this.#nextSum.fill(0)
    this.#at = 0
    this.#summed = 1
  }
}

/** sum += a · b for interleaved complex spectra. */
function multiplyAdd(sum: Float32Array, a: Float32Array, b: Float32Array): void {
  for (let k = 0; k < sum.length; k += 2) {
    const ar = a[k]
    const ai = a[k + 1]
    const br = b[k]
    const bi = b[k + 1]
    sum[k] += ar * br - ai * bi
    sum[k + 1] += ar * bi + ai * br
  }
}
