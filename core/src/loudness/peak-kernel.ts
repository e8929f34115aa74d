import type { WasmHost } from '../spectrum'
import { leb, OP, writeModule } from '../wasm'

/** Samples that are looked at in one go. */
export const PEAK_BLOCK = 64
const TAPS = 24
const TAP_BYTES = 16
const FILTER_BYTES = TAPS * TAP_BYTES
const MOST_FILTERS = 8
const SAMPLES_AT = MOST_FILTERS * FILTER_BYTES
/** Where a filter's largest output stands, from its taps on. */
const RESULT_AT = SAMPLES_AT + 4 * (PEAK_BLOCK + TAPS)

type Run = (taps: number, samples: number, end: number) => void

/** Largest outputs of a few filters of 24 taps over a short stretch of a signal. */
export class PeakKernel {
  readonly #samples: Float32Array
  readonly #memory: Float32Array
  readonly #run: Run
  #count = 0

  constructor(wasm: WasmHost, filters: readonly Float64Array[]) {
    const instance = new wasm.Instance(new wasm.Module(writeModule([peakFunction()], 1)), {})
    const exports = instance.exports as { memory: { buffer: ArrayBuffer }; peak: Run }
    this.#memory = new Float32Array(exports.memory.buffer)
    this.#samples = this.#memory.subarray(SAMPLES_AT / 4, SAMPLES_AT / 4 + PEAK_BLOCK + TAPS)
    this.#run = exports.peak
    for (const [f, taps] of filters.entries()) {
      taps.forEach((tap, t) => {
        const at = (f * FILTER_BYTES + t * TAP_BYTES) / 4
        this.#memory.fill(tap, at, at + 4)
      })
    }
  }

  /**
   * Takes a stretch in: `count` outputs, at most {@link PEAK_BLOCK}, of which the first takes the samples from
   * `from` on. Beyond the signal's ends there is silence.
   */
  load(signal: Float32Array, from: number, count: number): void {
    const samples = this.#samples
    const first = Math.max(0, -from)
    const last = Math.max(first, Math.min(count + TAPS, signal.length - from))
    for (let i = 0; i < first; i++) samples[i] = 0
    for (let i = first; i < last; i++) samples[i] = signal[from + i]
    for (let i = last; i < samples.length; i++) samples[i] = 0
    this.#count = count
  }

  /** The largest absolute output of a filter over the stretch. */
  peak(filter: number): number {
    const taps = filter * FILTER_BYTES
    this.#run(taps, SAMPLES_AT, SAMPLES_AT + 4 * this.#count)
    const at = (taps + RESULT_AT) / 4
    const m = this.#memory
    return Math.max(m[at], m[at + 1], m[at + 2], m[at + 3])
  }
}

const [TAPS_PARAM, SAMPLES_PARAM, END_PARAM] = [0, 1, 2]
const FIRST_TAP = 3
const SUM = FIRST_TAP + TAPS
const MOST = SUM + 1

/** Four outputs at a time: Σ tap · samples, and the largest of their absolute values. */
function peakFunction() {
  const get = (local: number) => [...OP.localGet, ...leb(local)]
  const set = (local: number) => [...OP.localSet, ...leb(local)]
  const at = (offset: number) => [2, ...leb(offset)]
  const taps = Array.from({ length: TAPS }, (_, t) => t)
  return {
    name: 'peak',
    vectors: TAPS + 2,
    code: [
      ...taps.flatMap((t) => [
        ...[...get(TAPS_PARAM), ...OP.v128Load, ...at(TAP_BYTES * t)],
        ...set(FIRST_TAP + t),
      ]),
      ...OP.loop,
      ...taps.flatMap((t) => [
        ...[...get(SAMPLES_PARAM), ...OP.v128Load, ...at(4 * t)],
        ...get(FIRST_TAP + t),
        ...OP.f32x4Mul,
        ...(t === 0 ? [] : [...get(SUM), ...OP.f32x4Add]),
        ...set(SUM),
      ]),
      ...[...get(SUM), ...OP.f32x4Abs, ...get(MOST), ...OP.f32x4Max, ...set(MOST)],
      ...[...get(SAMPLES_PARAM), ...OP.i32Const, 16, ...OP.i32Add, ...set(SAMPLES_PARAM)],
      ...[...get(SAMPLES_PARAM), ...get(END_PARAM), ...OP.i32LtU, ...OP.brIf, 0],
      ...OP.end,
      ...[...get(TAPS_PARAM), ...get(MOST), ...OP.v128Store, ...at(RESULT_AT)],
    ],
  }
}
