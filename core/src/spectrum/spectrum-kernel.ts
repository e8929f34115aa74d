import {
  advance,
  get,
  type KernelRun,
  lanes,
  leb,
  OP,
  set,
  untilReached,
  type WasmFunction,
  type WasmHost,
  writeModule,
} from '../wasm'

/** What stands before and after a Fourier transform, on the memory of its module; all places in bytes, of 16 each. */
export interface SpectrumKernel {
  /** Multiplies single-precision numbers at a place, up to an end, by as many at another. */
  readonly window: (at: number, windowAt: number, end: number) => void
  /** Powers of interleaved bins from a place on, to another in double precision, up to its end; times the scale. */
  readonly powers: (from: number, to: number, end: number) => void
}

const VECTOR_BYTES = 16
const [FROM_PARAM, TO_PARAM, END_PARAM] = [0, 1, 2]

/**
 * Compiles the loops in this realm.
 * @param memory that of the transform; @param scaleAt where in it the scale of powers stands, in double precision.
 */
export function spectrumKernel(wasm: WasmHost, memory: object, scaleAt: number): SpectrumKernel {
  const bytes = writeModule([windowFunction(), powersFunction(scaleAt)], 'imported')
  const { exports } = new wasm.Instance(new wasm.Module(bytes), { host: { memory } })
  const { window, powers } = exports as Record<string, KernelRun>
  return { window, powers }
}

/** Followed by the alignment that is hinted at, and an offset. */
const at = (offset: number) => [2, ...leb(offset)]

function windowFunction(): WasmFunction {
  const load = (param: number) => [...get(param), ...OP.v128Load, ...at(0)]
  return {
    name: 'window',
    vectors: 0,
    code: [
      ...OP.loop,
      ...get(FROM_PARAM),
      ...[...load(FROM_PARAM), ...load(TO_PARAM), ...OP.f32x4Mul],
      ...[...OP.v128Store, ...at(0)],
      ...advance(FROM_PARAM, VECTOR_BYTES),
      ...advance(TO_PARAM, VECTOR_BYTES),
      ...untilReached(FROM_PARAM, END_PARAM),
    ],
  }
}

/** Two bins of single precision become two powers of double precision at a time. */
function powersFunction(scaleAt: number): WasmFunction {
  const [scale, bins, first, second] = [3, 4, 5, 6]
  const square = (local: number) => [...get(local), ...get(local), ...OP.f64x2Mul]
  const shuffled = (list: readonly number[]) => [...OP.i8x16Shuffle, ...lanes(list)]
  const pair = (list: readonly number[]) => [...get(first), ...get(second), ...shuffled(list)]
  return {
    name: 'powers',
    vectors: 4,
    code: [
      ...[...OP.i32Const, ...leb(0), ...OP.v128Load64Splat, ...at(scaleAt), ...set(scale)],
      ...OP.loop,
      ...[...get(FROM_PARAM), ...OP.v128Load, ...at(0), ...set(bins)],
      ...[...get(bins), ...OP.f64x2PromoteF32x4, ...set(first)],
      ...[...get(bins), ...get(bins), ...shuffled([2, 3, 2, 3])],
      ...[...OP.f64x2PromoteF32x4, ...set(second)],
      ...[...square(first), ...set(first)],
      ...[...square(second), ...set(second)],
      ...get(TO_PARAM),
      ...[...pair([0, 1, 4, 5]), ...pair([2, 3, 6, 7]), ...OP.f64x2Add],
      ...[...get(scale), ...OP.f64x2Mul],
      ...[...OP.v128Store, ...at(0)],
      ...advance(FROM_PARAM, VECTOR_BYTES),
      ...advance(TO_PARAM, VECTOR_BYTES),
      ...untilReached(TO_PARAM, END_PARAM),
    ],
  }
}
