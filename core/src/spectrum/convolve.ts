import { doubleFft } from './double-fft'

/** The convolution of two signals, by transforms in double precision; at least as long as it is, zeros behind. */
export function convolve(a: Float32Array, b: Float32Array): Float64Array {
  const size = 2 ** Math.ceil(Math.log2(a.length + b.length))
  const fft = doubleFft(size)
  const transformed = (signal: Float32Array) => {
    const padded = new Float64Array(size)
    padded.set(signal)
    return fft.forward(padded).slice()
  }
  const [x, y] = [transformed(a), transformed(b)]
  for (let k = 0; k < x.length; k += 2) {
    const re = x[k] * y[k] - x[k + 1] * y[k + 1]
    x[k + 1] = x[k] * y[k + 1] + x[k + 1] * y[k]
    x[k] = re
  }
  return fft.inverse(x)
}
