import FFT from 'fft.js'
import { type PartitionFft, plainPartitions } from './partition-fft'
import { type PffftModule, pffftPartitions, pffftTransform } from './pffft'

/**
 * Fourier transform of real signals of one power-of-two size.
 * Spectra are interleaved `re, im` pairs of bins 0 to size/2: `size + 2` floats. The forward transform
 * is unscaled, the inverse divides by the size, so that one undoes the other.
 */
export interface RealFft {
  readonly size: number
  forward(time: Float32Array, spectrum: Float32Array): void
  inverse(spectrum: Float32Array, time: Float32Array): void
  /**
   * Spectrum of the `size` samples from `start` on, windowed: of it bins `first` to `last`, which are not the outermost;
   * the others are left as they are.
   */
  windowed(
    signal: Float32Array,
    start: number,
    window: Float32Array,
    spectrum: Float32Array,
    first: number,
    last: number,
  ): void
  /**
   * Powers of bins 0 to size/2 of the `size` samples from `start` on, windowed; each times `scale`, the
   * bins between the ends doubled for both signs of their frequency.
   */
  power(
    signal: Float32Array,
    start: number,
    window: Float32Array,
    scale: number,
    out: Float64Array,
  ): void
}

const SMALLEST_PFFFT = 32
let hostModule: PffftModule | null = null
const cache = new Map<number, RealFft>()
const partitions = new Map<number, PartitionFft>()

/**
 * Gives this realm (page, worker, worklet, Node) the compiled PFFFT module of its host. Without it
 * {@link realFft} works on the slower `fft.js`.
 */
export function installPffft(module: PffftModule): void {
  hostModule = module
  cache.clear()
  partitions.clear()
}

/** The transform of a size, shared by all callers in this realm: spectra must be read before the next call. */
export function realFft(size: number): RealFft {
  let fft = cache.get(size)
  if (!fft) {
    fft =
      hostModule && size >= SMALLEST_PFFFT ? pffftTransform(hostModule, size) : referenceFft(size)
    cache.set(size, fft)
  }
  return fft
}

/** The transform for partitioned convolution of a size, shared by all callers in this realm. */
export function partitionFft(size: number): PartitionFft {
  let fft = partitions.get(size)
  if (!fft) {
    fft = hostModule ? pffftPartitions(hostModule, size) : plainPartitions(realFft(size))
    partitions.set(size, fft)
  }
  return fft
}

/** The same transform by `fft.js` in double precision: reference and fallback. */
export function referenceFft(size: number): RealFft {
  if (size < 2 || (size & (size - 1)) !== 0) {
    throw new RangeError(`A transform size is a power of two; ${size} is not.`)
  }
  const fft = new FFT(size)
  const complex = fft.createComplexArray()
  const result = fft.createComplexArray()
  const work = new Float32Array(size)
  const applyWindow = (signal: Float32Array, start: number, window: Float32Array) => {
    for (let i = 0; i < size; i++) work[i] = signal[start + i] * window[i]
    return work
  }
  return {
    size,
    forward(time, spectrum) {
      fft.realTransform(result, time)
      for (let i = 0; i < size + 2; i++) spectrum[i] = result[i]
    },
    inverse(spectrum, time) {
      for (let i = 0; i < size + 2; i++) complex[i] = spectrum[i]
      fft.completeSpectrum(complex)
      fft.inverseTransform(result, complex)
      for (let i = 0; i < size; i++) time[i] = result[2 * i]
    },
    windowed(signal, start, window, spectrum, first, last) {
      fft.realTransform(result, applyWindow(signal, start, window))
      for (let i = 2 * first; i < 2 * last + 2; i++) spectrum[i] = result[i]
    },
    power(signal, start, window, scale, out) {
      fft.realTransform(result, applyWindow(signal, start, window))
      const last = size / 2
      for (let k = 0; k <= last; k++) {
        const sides = k === 0 || k === last ? 1 : 2
        out[k] = (result[2 * k] ** 2 + result[2 * k + 1] ** 2) * scale * sides
      }
    },
  }
}
