import type { WasmHost } from '../wasm'
import {
  advance,
  get,
  instantiate,
  type KernelRun,
  leb,
  OP,
  set,
  untilReached,
  writeModule,
} from '../wasm'

/** Outputs that are looked at in one go; a multiple of what the code takes at a time. */
export const PEAK_BLOCK = 64
/** Longest stretch of a signal that is taken in, in frames. */
export const MOST_SAMPLES = 65536 + 128
const TAPS = 24
const MOST_FILTERS = 8
const TAP_BYTES = 16
const FILTER_BYTES = TAPS * TAP_BYTES
/** Results stand as far behind their parameter as all filters are long. */
const RESULT_OFFSET = MOST_FILTERS * FILTER_BYTES
const SAMPLES_AT = 2 * RESULT_OFFSET
/** Silence on both sides of the signal, in frames. */
const PAD = TAPS + PEAK_BLOCK
const PAGE_BYTES = 65536
/** Outputs per turn: four vectors with a sum each, so that no sum waits for the one before. */
const VECTORS = 4

/** Largest samples, and largest outputs of a few filters of 24 taps, over stretches of a signal. */
export class PeakKernel {
  readonly #memory: Float32Array
  readonly #samples: Float32Array
  readonly #peak: KernelRun
  readonly #largest: KernelRun
  #length = 0

  constructor(wasm: WasmHost, filters: readonly Float64Array[]) {
    const { buffer, run } = instantiate(wasm, kernelModule)
    this.#memory = new Float32Array(buffer)
    this.#samples = this.#memory.subarray(SAMPLES_AT / 4)
    this.#peak = run.peak
    this.#largest = run.largest
    for (const [f, taps] of filters.entries()) {
      taps.forEach((tap, t) => {
        const at = (f * FILTER_BYTES + t * TAP_BYTES) / 4
        this.#memory.fill(tap, at, at + 4)
      })
    }
  }

  /** Takes a signal in, at most {@link MOST_SAMPLES} frames; beyond its ends there is silence. */
  load(signal: Float32Array): void {
    this.#samples.set(signal, PAD)
    const end = PAD + signal.length
    // What an earlier signal left behind the end.
    this.#samples.fill(0, end, Math.max(end + PAD, this.#length))
    this.#length = end
  }

  /** The largest absolute sample from `from` to `to`, or up to three samples further. */
  largest(from: number, to: number): number {
    this.#largest(0, samplesAt(from), samplesAt(to))
    return this.#result(0)
  }

  /** The largest absolute output of a filter from `from` to `to`; the output at `i` takes the samples from i - 11 on. */
  peak(filter: number, from: number, to: number): number {
    const at = filter * FILTER_BYTES
    const first = from - TAPS / 2 + 1
    this.#peak(at, samplesAt(first), samplesAt(first + to - from))
    return this.#result(at)
  }

  #result(parameter: number): number {
    const at = (parameter + RESULT_OFFSET) / 4
    const m = this.#memory
    return Math.max(m[at], m[at + 1], m[at + 2], m[at + 3])
  }
}

function samplesAt(frame: number): number {
  return SAMPLES_AT + 4 * (PAD + frame)
}

function kernelModule(fused: boolean): Uint8Array<ArrayBuffer> {
  const bytes = SAMPLES_AT + 4 * (MOST_SAMPLES + 2 * PAD)
  return writeModule([peakFunction(fused), largestFunction()], Math.ceil(bytes / PAGE_BYTES))
}

const [RESULT_PARAM, SAMPLES_PARAM, END_PARAM] = [0, 1, 2]
const MOST = 3
const TAP = 4
const FIRST_SUM = 5

const at = (offset: number) => [2, ...leb(offset)]
const vectors = Array.from({ length: VECTORS }, (_, v) => v)

/** Σ tap · samples, and the largest of their absolute values. */
function peakFunction(fused: boolean) {
  const taps = Array.from({ length: TAPS }, (_, t) => t)
  const add = (t: number, v: number) => {
    const sample = [...get(SAMPLES_PARAM), ...OP.v128Load, ...at(4 * t + 16 * v)]
    const sum = FIRST_SUM + v
    if (t === 0) return [...sample, ...get(TAP), ...OP.f32x4Mul, ...set(sum)]
    return fused
      ? [...sample, ...get(TAP), ...get(sum), ...OP.f32x4RelaxedMadd, ...set(sum)]
      : [...sample, ...get(TAP), ...OP.f32x4Mul, ...get(sum), ...OP.f32x4Add, ...set(sum)]
  }
  return {
    name: 'peak',
    vectors: 2 + VECTORS,
    code: [
      ...OP.loop,
      ...taps.flatMap((t) => [
        ...[...get(RESULT_PARAM), ...OP.v128Load, ...at(TAP_BYTES * t), ...set(TAP)],
        ...vectors.flatMap((v) => add(t, v)),
      ]),
      ...vectors.flatMap((v) => keepLargest(get(FIRST_SUM + v))),
      ...untilEnd(16 * VECTORS),
      ...giveResult(),
    ],
  }
}

function largestFunction() {
  return {
    name: 'largest',
    vectors: 1,
    code: [
      ...OP.loop,
      ...keepLargest([...get(SAMPLES_PARAM), ...OP.v128Load, ...at(0)]),
      ...untilEnd(16),
      ...giveResult(),
    ],
  }
}

function keepLargest(value: readonly number[]): number[] {
  return [...value, ...OP.f32x4Abs, ...get(MOST), ...OP.f32x4Max, ...set(MOST)]
}

/** The end of a loop over the samples. */
function untilEnd(bytes: number): number[] {
  return [...advance(SAMPLES_PARAM, bytes), ...untilReached(SAMPLES_PARAM, END_PARAM)]
}

function giveResult(): number[] {
  return [...get(RESULT_PARAM), ...get(MOST), ...OP.v128Store, ...at(RESULT_OFFSET)]
}
