declare module 'fft.js' {
  /** Radix-4 transform of interleaved complex arrays. */
  export default class FFT {
    constructor(size: number)
    createComplexArray(): number[]
    realTransform(out: number[], data: ArrayLike<number>): void
    completeSpectrum(spectrum: number[]): void
    inverseTransform(out: number[], data: number[]): void
    transform(out: number[], data: number[]): void
  }
}
