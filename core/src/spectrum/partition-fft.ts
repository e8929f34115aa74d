import type { RealFft } from './fft'

/** A spectrum in a form of the transform's own; only its {@link PartitionFft} can read it. */
export type Spectrum = (number | Float32Array) & { readonly spectrum: unique symbol }

/**
 * What partitioned convolution needs of a transform: spectra that stay where they are multiplied. The
 * inverse of a sum of products is the cyclic convolution, correctly scaled.
 */
export interface PartitionFft {
  readonly size: number
  /** A spectrum of zeros. */
  create(): Spectrum
  /** Gives a spectrum back for others to use. */
  release(spectrum: Spectrum): void
  clear(spectrum: Spectrum): void
  forward(signal: Float32Array, into: Spectrum): void
  inverse(from: Spectrum, signal: Float32Array): void
  /** sum += a · b. */
  multiplyAdd(sum: Spectrum, a: Spectrum, b: Spectrum): void
}

/** The same on any real transform, in plain code: fallback and reference. */
export function plainPartitions(fft: RealFft): PartitionFft {
  const { size } = fft
  const values = (spectrum: Spectrum) => spectrum as unknown as Float32Array
  return {
    size,
    create: () => new Float32Array(size + 2) as unknown as Spectrum,
    release() {},
    clear(spectrum) {
      values(spectrum).fill(0)
    },
    forward(signal, into) {
      fft.forward(signal, values(into))
    },
    inverse(from, signal) {
      fft.inverse(values(from), signal)
    },
    multiplyAdd(sum, a, b) {
      const s = values(sum)
      const x = values(a)
      const y = values(b)
      for (let k = 0; k < s.length; k += 2) {
        s[k] += x[k] * y[k] - x[k + 1] * y[k + 1]
        s[k + 1] += x[k] * y[k + 1] + x[k + 1] * y[k]
      }
    },
  }
}
