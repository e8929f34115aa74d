import {
  advance,
  get,
  instantiate,
  type KernelRun,
  leb,
  OP,
  set,
  untilReached,
  type WasmHost,
  writeModule,
} from '../wasm'

/** Frames that are added up in one go; a multiple of four. */
const MOST = 4096
const GAIN_AT = 0
const SUM_AT = 64
const SIGNAL_AT = SUM_AT + 4 * MOST
const PAGES = 1
const VECTOR_BYTES = 16

/** Adds signals times their gains, in single precision, four frames at a time. */
export class AddKernel {
  readonly #memory: Float32Array
  readonly #run: KernelRun

  constructor(wasm: WasmHost) {
    const { buffer, run } = instantiate(wasm, kernelModule)
    this.#memory = new Float32Array(buffer)
    this.#run = run.add
  }

  /** Adds to the first `frames` of `out`, at most 4096. */
  add(
    signals: readonly Float32Array[],
    gains: readonly number[],
    out: Float32Array,
    frames: number,
  ) {
    const memory = this.#memory
    const end = SUM_AT + 4 * frames
    memory.set(frames === out.length ? out : out.subarray(0, frames), SUM_AT / 4)
    for (let k = 0; k < signals.length; k++) {
      memory[GAIN_AT / 4] = gains[k]
      memory.set(signals[k], SIGNAL_AT / 4)
      this.#run(SIGNAL_AT, SUM_AT, end)
    }
    out.set(memory.subarray(SUM_AT / 4, end / 4))
  }
}

function kernelModule(fused: boolean): Uint8Array<ArrayBuffer> {
  return writeModule([addFunction(fused)], PAGES)
}

const [SIGNAL_PARAM, SUM_PARAM, END_PARAM] = [0, 1, 2]
const GAIN = 3

const at = (offset: number) => [2, ...leb(offset)]
const load = (local: number) => [...get(local), ...OP.v128Load, ...at(0)]

function addFunction(fused: boolean) {
  const product = [...load(SIGNAL_PARAM), ...get(GAIN)]
  return {
    name: 'add',
    vectors: 1,
    code: [
      ...[...OP.i32Const, ...leb(0), ...OP.v128Load32Splat, ...at(GAIN_AT), ...set(GAIN)],
      ...OP.loop,
      ...get(SUM_PARAM),
      ...(fused
        ? [...product, ...load(SUM_PARAM), ...OP.f32x4RelaxedMadd]
        : [...product, ...OP.f32x4Mul, ...load(SUM_PARAM), ...OP.f32x4Add]),
      ...[...OP.v128Store, ...at(0)],
      ...advance(SIGNAL_PARAM, VECTOR_BYTES),
      ...advance(SUM_PARAM, VECTOR_BYTES),
      ...untilReached(SUM_PARAM, END_PARAM),
    ],
  }
}
