import type { WasmHost } from '../wasm'
import type { RealFft } from './fft'
import type { PartitionFft, Spectrum } from './partition-fft'
import { type SpectrumKernel, spectrumKernel } from './spectrum-kernel'

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
  /** Loops beside the transform on the same memory. */
  readonly loops: SpectrumKernel
  /** Where the scale of the loops' powers stands. */
  readonly scaleAt: number
}

const REAL = 0
const FORWARD = 0
const BACKWARD = 1
const PAGE_BYTES = 65536
const VECTOR_BYTES = 16

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
  const scaleAt = raw.f(VECTOR_BYTES)
  return {
    loops: spectrumKernel(wasm, raw.d, scaleAt),
    scaleAt,
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
  #doubles = new Float64Array(0)

  constructor(private readonly module: PffftModule) {}

  get floats(): Float32Array {
    this.#look()
    return this.#whole
  }

  get doubles(): Float64Array {
    this.#look()
    return this.#doubles
  }

  #look(): void {
    const { buffer } = this.module.memory
    if (buffer === this.#buffer) return
    this.#buffer = buffer
    this.#whole = new Float32Array(buffer)
    this.#doubles = new Float64Array(buffer)
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

/** The real transform of one size on a PFFFT module. */
export function pffftTransform(module: PffftModule, size: number): RealFft {
  const setup = makeSetup(module, size)
  const inputAt = allocate(module, size * 4)
  const outputAt = allocate(module, size * 4)
  const workAt = allocate(module, size * 4)
  const windowAt = allocate(module, size * 4)
  const powersAt = allocate(module, size * 4)
  const views = new Views(module)
  const input = inputAt / 4
  const output = outputAt / 4
  const powers = powersAt / 8
  const last = size / 2
  /** Whose values stand at `windowAt`. */
  let windowed: Float32Array | null = null
  const transformWindowed = (signal: Float32Array, start: number, window: Float32Array) => {
    const memory = views.floats
    memory.set(signal.subarray(start, start + size), input)
    if (window !== windowed) {
      memory.set(window, windowAt / 4)
      windowed = window
    }
    module.loops.window(inputAt, windowAt, inputAt + size * 4)
    module.transformOrdered(setup, inputAt, outputAt, workAt, FORWARD)
    return memory
  }
  return {
    size,
    forward(time, spectrum) {
      const memory = views.floats
      memory.set(time, input)
      module.transformOrdered(setup, inputAt, outputAt, workAt, FORWARD)
      spectrum.set(memory.subarray(output, output + size))
      // PFFFT packs the real Nyquist bin beside the real bin 0.
      spectrum[size] = spectrum[1]
      spectrum[size + 1] = 0
      spectrum[1] = 0
    },
    inverse(spectrum, time) {
      const memory = views.floats
      memory.set(spectrum.subarray(0, size), input)
      memory[input + 1] = spectrum[size]
      module.transformOrdered(setup, inputAt, outputAt, workAt, BACKWARD)
      copyFrom(memory, output, time, size, 1 / size)
    },
    windowed(signal, start, window, spectrum, first, last) {
      const memory = transformWindowed(signal, start, window)
      spectrum.set(memory.subarray(output + 2 * first, output + 2 * last + 2), 2 * first)
    },
    power(signal, start, window, scale, out) {
      const memory = transformWindowed(signal, start, window)
      const { doubles } = views
      doubles[module.scaleAt / 8] = 2 * scale
      module.loops.powers(outputAt, powersAt, powersAt + size * 4)
      out.set(doubles.subarray(powers, powers + last))
      // Here too the first and the last stand at one place.
      out[0] = memory[output] * memory[output] * scale
      out[last] = memory[output + 1] * memory[output + 1] * scale
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
