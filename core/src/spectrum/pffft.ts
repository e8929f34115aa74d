import type { RealFft } from './fft'

/** The part of a host's `WebAssembly` that is used here; the global object fits. */
export interface WasmHost {
  readonly Module: new (bytes: Uint8Array<ArrayBuffer>) => object
  readonly Instance: new (
    module: object,
    imports: Record<string, Record<string, unknown>>,
  ) => { readonly exports: object }
}

/** The exports of the PFFFT build (`@echogarden/pffft-wasm`, SIMD) by what they do. */
export interface PffftModule {
  readonly memory: { readonly buffer: ArrayBuffer }
  newSetup(size: number, transform: number): number
  alignedMalloc(bytes: number): number
  transformOrdered(
    setup: number,
    input: number,
    output: number,
    work: number,
    direction: number,
  ): void
}

const REAL = 0
const FORWARD = 0
const BACKWARD = 1

/** The wasm's own names: the build is minified, its loader maps them the same way. */
interface RawExports {
  readonly d: { readonly buffer: ArrayBuffer }
  e(): void
  f(bytes: number): number
  k(size: number, transform: number): number
  p(setup: number, input: number, output: number, work: number, direction: number): void
}

/**
 * Compiles and starts PFFFT in this realm, without its loader script, so that it works in an audio
 * worklet too. @param wasm the host's `WebAssembly`. @param bytes the .wasm file.
 */
export function loadPffft(wasm: WasmHost, bytes: Uint8Array<ArrayBuffer>): PffftModule {
  const refuse = () => {
    throw new RangeError('The Fourier transform module ran out of memory.')
  }
  const memcpy = (to: number, from: number, count: number) =>
    new Uint8Array(raw.d.buffer).copyWithin(to, from, from + count)
  const instance = new wasm.Instance(new wasm.Module(bytes), {
    a: { a: refuse, b: refuse, c: memcpy },
  })
  const raw = instance.exports as RawExports
  raw.e()
  return {
    memory: raw.d,
    newSetup: raw.k,
    alignedMalloc: raw.f,
    transformOrdered: raw.p,
  }
}

/** A real transform of one size on PFFFT. Sizes: powers of two from 32. */
export function pffftTransform(module: PffftModule, size: number): RealFft {
  if (size < 32 || (size & (size - 1)) !== 0) {
    throw new RangeError(`A transform size is a power of two from 32; ${size} is not.`)
  }
  const setup = module.newSetup(size, REAL)
  const inputAt = module.alignedMalloc(size * 4)
  const outputAt = module.alignedMalloc(size * 4)
  const workAt = module.alignedMalloc(size * 4)
  if (!setup || !inputAt || !outputAt || !workAt) {
    throw new RangeError('The Fourier transform module ran out of memory.')
  }
  const input = new Float32Array(module.memory.buffer, inputAt, size)
  const output = new Float32Array(module.memory.buffer, outputAt, size)
  return {
    size,
    forward(time, spectrum) {
      input.set(time)
      module.transformOrdered(setup, inputAt, outputAt, workAt, FORWARD)
      // PFFFT packs the real Nyquist bin beside the real bin 0.
      spectrum.set(output)
      spectrum[size] = output[1]
      spectrum[size + 1] = 0
      spectrum[1] = 0
    },
    inverse(spectrum, time) {
      for (let i = 0; i < size; i++) input[i] = spectrum[i]
      input[1] = spectrum[size]
      module.transformOrdered(setup, inputAt, outputAt, workAt, BACKWARD)
      const scale = 1 / size
      for (let i = 0; i < size; i++) time[i] = output[i] * scale
    },
  }
}
