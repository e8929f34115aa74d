import type { WasmHost } from '../wasm'
import type { RealFft } from './fft'
import type { PartitionFft, Spectrum } from './partition-fft'

interface WasmMemory {
  readonly buffer: ArrayBuffer
  grow(pages: number): number
}

type Transform = (
  setup: number,
  input: number,
  output: number,
  work: number,
  direction: number,
) => void

/** The exports of the PFFFT build (`@echogarden/pffft-wasm`, SIMD) by what they do. */
export interface PffftModule {
  readonly memory: WasmMemory
  newSetup(size: number, transform: number): number
  alignedMalloc(bytes: number): number
  alignedFree(pointer: number): void
  transformOrdered: Transform
  /** Leaves bins in an order of its own, in which {@link PffftModule.multiplyAdd} works. */
  transform: Transform
  /** sum += a · b · scale, bin by bin. */
  multiplyAdd(setup: number, a: number, b: number, sum: number, scale: number): void
}

const REAL = 0
const FORWARD = 0
const BACKWARD = 1
const PAGE_BYTES = 65536

/** The wasm's own names: the build is minified, its loader maps them the same way. */
interface RawExports {
  readonly d: WasmMemory
  e(): void
  f(bytes: number): number
  h(pointer: number): void
  k(size: number, transform: number): number
  n(setup: number, a: number, b: number, sum: number, scale: number): void
  o: Transform
  p: Transform
}

/**
 * Compiles and starts PFFFT in this realm, without its loader script, so that it works in an audio
 * worklet too. @param wasm the host's `WebAssembly`. @param bytes the .wasm file.
 */
export function loadPffft(wasm: WasmHost, bytes: Uint8Array<ArrayBuffer>): PffftModule {
  const stop = () => {
    throw new RangeError('The Fourier transform module failed.')
  }
  const grow = (wanted: number) => {
    try {
      raw.d.grow(Math.ceil((wanted - raw.d.buffer.byteLength) / PAGE_BYTES))
      return 1
    } catch {
      return 0
    }
  }
  const memcpy = (to: number, from: number, count: number) =>
    new Uint8Array(raw.d.buffer).copyWithin(to, from, from + count)
  const instance = new wasm.Instance(new wasm.Module(bytes), {
    a: { a: stop, b: grow, c: memcpy },
  })
  const raw = instance.exports as RawExports
  raw.e()
  return {
    memory: raw.d,
    newSetup: raw.k,
    alignedMalloc: raw.f,
    alignedFree: raw.h,
    transformOrdered: raw.p,
    transform: raw.o,
    multiplyAdd: raw.n,
  }
}

/** Windows on the module's memory, made anew when it has grown. */
class Views {
  #buffer: ArrayBuffer | null = null
  #whole = new Float32Array(0)

  constructor(private readonly module: PffftModule) {}

  get floats(): Float32Array {
    const { buffer } = this.module.memory
    if (buffer !== this.#buffer) {
      this.#buffer = buffer
      this.#whole = new Float32Array(buffer)
    }
    return this.#whole
  }
}

function allocate(module: PffftModule, bytes: number): number {
  const pointer = module.alignedMalloc(bytes)
  if (pointer === 0) throw new RangeError('The Fourier transform module ran out of memory.')
  return pointer
}

function makeSetup(module: PffftModule, size: number): number {
  const setup = module.newSetup(size, REAL)
  if (setup === 0) throw new RangeError(`A transform of ${size} points cannot be made.`)
  return setup
}

/** Copies from the module's memory, scaled; one function, so that it is compiled once for all. */
function copyFrom(
  memory: Float32Array,
  at: number,
  out: Float32Array,
  count: number,
  scale: number,
): void {
  for (let i = 0; i < count; i++) out[i] = memory[at + i] * scale
}

// Loops stand in functions of their own, which the engine compiles once for all callers.

function putWindowed(
  memory: Float32Array,
  at: number,
  signal: Float32Array,
  start: number,
  window: Float32Array,
): void {
  for (let i = 0; i < window.length; i++) memory[at + i] = signal[start + i] * window[i]
}

/** PFFFT packs the real Nyquist bin beside the real bin 0. */
function takePowers(memory: Float32Array, at: number, scale: number, out: Float64Array): void {
  const last = out.length - 1
  const both = 2 * scale
  for (let k = 1; k < last; k++) {
    const re = memory[at + 2 * k]
    const im = memory[at + 2 * k + 1]
    out[k] = (re * re + im * im) * both
  }
  out[0] = memory[at] * memory[at] * scale
  out[last] = memory[at + 1] * memory[at + 1] * scale
}

/** The real transform of one size on a PFFFT module. */
export function pffftTransform(module: PffftModule, size: number): RealFft {
  const setup = makeSetup(module, size)
  const inputAt = allocate(module, size * 4)
  const outputAt = allocate(module, size * 4)
  const workAt = allocate(module, size * 4)
  const views = new Views(module)
  const input = inputAt / 4
  const output = outputAt / 4
  return {
    size,
    forward(time, spectrum) {
      const memory = views.floats
      memory.set(time, input)
      module.transformOrdered(setup, inputAt, outputAt, workAt, FORWARD)
      copyFrom(memory, output, spectrum, size, 1)
      // PFFFT packs the real Nyquist bin beside the real bin 0.
      spectrum[size] = spectrum[1]
      spectrum[size + 1] = 0
      spectrum[1] = 0
    },
    inverse(spectrum, time) {
      const memory = views.floats
      for (let i = 0; i < size; i++) memory[input + i] = spectrum[i]
      memory[input + 1] = spectrum[size]
      module.transformOrdered(setup, inputAt, outputAt, workAt, BACKWARD)
      copyFrom(memory, output, time, size, 1 / size)
    },
    power(signal, start, window, scale, out) {
      const memory = views.floats
      putWindowed(memory, input, signal, start, window)
      module.transformOrdered(setup, inputAt, outputAt, workAt, FORWARD)
      takePowers(memory, output, scale, out)
    },
  }
}

/** {@link PartitionFft} with spectra in the module's own memory, where SIMD multiplies them. */
export function pffftPartitions(module: PffftModule, size: number): PartitionFft {
  const setup = makeSetup(module, size)
  const timeAt = allocate(module, size * 4)
  const workAt = allocate(module, size * 4)
  const views = new Views(module)
  const time = timeAt / 4
  const scale = 1 / size
  const free: number[] = []
  const pointer = (spectrum: Spectrum) => spectrum as number
  const clear = (spectrum: Spectrum) => {
    const at = pointer(spectrum) / 4
    views.floats.fill(0, at, at + size)
  }
  return {
    size,
    create() {
      const spectrum = free.pop() ?? allocate(module, size * 4)
      clear(spectrum as unknown as Spectrum)
      return spectrum as unknown as Spectrum
    },
    release(spectrum) {
      free.push(pointer(spectrum))
    },
    clear,
    forward(signal, into) {
      views.floats.set(signal, time)
      module.transform(setup, timeAt, pointer(into), workAt, FORWARD)
    },
    inverse(from, signal) {
      module.transform(setup, pointer(from), timeAt, workAt, BACKWARD)
      copyFrom(views.floats, time, signal, size, 1)
    },
    multiplyAdd(sum, a, b) {
      module.multiplyAdd(setup, pointer(a), pointer(b), pointer(sum), scale)
    },
  }
}
