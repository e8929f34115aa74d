import {
  advance,
  get,
  instantiate,
  type KernelRun,
  lanes,
  leb,
  OP,
  set,
  untilReached,
  type WasmHost,
  writeModule,
} from '../wasm'

/** Outputs that are made in one go; a multiple of the four that the code makes at a time. */
const MOST = 8192
/** Samples that the filter reaches to either side, in pairs. */
const REACH = 8
const VECTOR_BYTES = 16
const TAPS_AT = 0
const INPUT_AT = 256
const PAIRS = MOST + 2 * REACH
const EVEN_AT = INPUT_AT + 8 * PAIRS
/** Samples at odd places stand so far behind those at even ones. */
const ODD_OFFSET = 4 * PAIRS
const OUT_AT = EVEN_AT + 2 * ODD_OFFSET
const PAGE_BYTES = 65536

/** Half-band filter and every other sample, in single precision, four outputs at a time. */
export class HalveKernel {
  readonly #memory: Float32Array
  readonly #split: KernelRun
  readonly #filter: KernelRun

  /** @param taps at the odd distances from the centre, eight of them; the centre is one half. */
  constructor(wasm: WasmHost, taps: ArrayLike<number>) {
    const { buffer, run } = instantiate(wasm, kernelModule)
    this.#memory = new Float32Array(buffer)
    this.#split = run.split
    this.#filter = run.filter
    for (let i = 0; i < REACH; i++) this.#memory[TAPS_AT / 4 + i] = taps[i]
    this.#memory[TAPS_AT / 4 + REACH] = 0.5
  }

  /** Outputs `first` to `last`, for which all samples are there: from 2·first - 16 to 2·last + 16. */
  run(input: Float32Array, out: Float32Array, first: number, last: number): void {
    for (let from = first; from < last; from += MOST) {
      const count = Math.min(MOST, last - from)
      const start = 2 * (from - REACH)
      const samples = 2 * (count + 2 * REACH)
      this.#memory.set(input.subarray(start, start + samples), INPUT_AT / 4)
      this.#split(INPUT_AT, EVEN_AT, INPUT_AT + 4 * samples)
      this.#filter(EVEN_AT, OUT_AT, OUT_AT + 4 * count)
      out.set(this.#memory.subarray(OUT_AT / 4, OUT_AT / 4 + count), from)
    }
  }
}

function kernelModule(fused: boolean): Uint8Array<ArrayBuffer> {
  const bytes = OUT_AT + 4 * MOST
  return writeModule([splitFunction(), filterFunction(fused)], Math.ceil(bytes / PAGE_BYTES))
}

const [FROM_PARAM, TO_PARAM, END_PARAM] = [0, 1, 2]
const FIRST = 3
const SUM = FIRST + REACH + 1

const at = (offset: number) => [2, ...leb(offset)]

/** Samples at even and at odd places, apart. */
function splitFunction() {
  const both = [
    ...[...get(FROM_PARAM), ...OP.v128Load, ...at(0)],
    ...[...get(FROM_PARAM), ...OP.v128Load, ...at(VECTOR_BYTES)],
  ]
  const taken = (list: readonly number[], offset: number) => [
    ...get(TO_PARAM),
    ...both,
    ...[...OP.i8x16Shuffle, ...lanes(list)],
    ...[...OP.v128Store, ...at(offset)],
  ]
  return {
    name: 'split',
    vectors: 0,
    code: [
      ...OP.loop,
      ...taken([0, 2, 4, 6], 0),
      ...taken([1, 3, 5, 7], ODD_OFFSET),
      ...advance(FROM_PARAM, 2 * VECTOR_BYTES),
      ...advance(TO_PARAM, VECTOR_BYTES),
      ...untilReached(FROM_PARAM, END_PARAM),
    ],
  }
}

/** Half of the sample itself, and each tap times the samples at its distance to both sides. */
function filterFunction(fused: boolean) {
  const load = (offset: number) => [...get(FROM_PARAM), ...OP.v128Load, ...at(offset)]
  const taps = Array.from({ length: REACH }, (_, i) => i)
  const add = (i: number) => {
    const pair = [
      ...load(ODD_OFFSET + 4 * (REACH + i)),
      ...load(ODD_OFFSET + 4 * (REACH - 1 - i)),
      ...OP.f32x4Add,
    ]
    return fused
      ? [...pair, ...get(FIRST + i), ...get(SUM), ...OP.f32x4RelaxedMadd, ...set(SUM)]
      : [...pair, ...get(FIRST + i), ...OP.f32x4Mul, ...get(SUM), ...OP.f32x4Add, ...set(SUM)]
  }
  return {
    name: 'filter',
    vectors: REACH + 2,
    code: [
      ...[...taps, REACH].flatMap((i) => [
        ...[...OP.i32Const, ...leb(0), ...OP.v128Load32Splat, ...at(TAPS_AT + 4 * i)],
        ...set(FIRST + i),
      ]),
      ...OP.loop,
      ...[...load(4 * REACH), ...get(FIRST + REACH), ...OP.f32x4Mul, ...set(SUM)],
      ...taps.flatMap(add),
      ...[...get(TO_PARAM), ...get(SUM), ...OP.v128Store, ...at(0)],
      ...advance(FROM_PARAM, VECTOR_BYTES),
      ...advance(TO_PARAM, VECTOR_BYTES),
      ...untilReached(TO_PARAM, END_PARAM),
    ],
  }
}
