import FFT from 'fft.js'

/**
 * Fourier transform of real signals in double precision, for designing filters. Spectra are interleaved
 * `re, im` pairs of bins 0 to size/2: `size + 2` numbers. The inverse undoes the forward transform.
 */
export interface DoubleFft {
  readonly size: number
  forward(time: Float64Array): Float64Array
  inverse(spectrum: Float64Array): Float64Array
}

const cache = new Map<number, DoubleFft>()

export function doubleFft(size: number): DoubleFft {
  let fft = cache.get(size)
  if (!fft) {
    fft = make(size)
    cache.set(size, fft)
  }
  return fft
}

function make(size: number): DoubleFft {
  const fft = new FFT(size)
  const complex = fft.createComplexArray()
  const result = fft.createComplexArray()
  return {
    size,
    forward(time) {
      fft.realTransform(result, time)
      return Float64Array.from({ length: size + 2 }, (_, i) => result[i])
    },
    inverse(spectrum) {
      for (let i = 0; i < size + 2; i++) complex[i] = spectrum[i]
      fft.completeSpectrum(complex)
      fft.inverseTransform(result, complex)
      return Float64Array.from({ length: size }, (_, i) => result[2 * i])
    },
  }
}
