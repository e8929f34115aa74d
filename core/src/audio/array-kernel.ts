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
  type WasmFunction,
  type WasmHost,
  writeModule,
} from '../wasm'

/** Samples of each array that are worked on in one go; a multiple of the four that the code makes at a time. */
const MOST = 8192
const VECTOR_BYTES = 16
const PAGE_BYTES = 65536
/** Constants: one half and a quarter. */
const [HALF_AT, QUARTER_AT] = [0, 4]
const FIRST_AT = 64
/** From one array to the next, with room for what is read past its end. */
const ROOM = 4 * MOST + 4 * VECTOR_BYTES

/** Simple loops over long arrays in single precision, four samples at a time. */
export class ArrayKernel {
  readonly #floats: Float32Array
  readonly #shorts: Int16Array
  readonly #run: Readonly<Record<string, KernelRun>>

  constructor(wasm: WasmHost) {
    const { buffer, run } = instantiate(wasm, kernelModule)
    this.#floats = new Float32Array(buffer)
    this.#shorts = new Int16Array(buffer)
    this.#run = run
    this.#floats[HALF_AT / 4] = 0.5
    this.#floats[QUARTER_AT / 4] = 0.25
  }

  /** Middle, (L + R)/2, and side, (L - R)/2, into arrays that are as long. */
  split(left: Float32Array, right: Float32Array, mid: Float32Array, side: Float32Array): void {
    const memory = this.#floats
    for (let from = 0; from < left.length; from += MOST) {
      const to = Math.min(left.length, from + MOST)
      memory.set(left.subarray(from, to), FIRST_AT / 4)
      memory.set(right.subarray(from, to), (FIRST_AT + ROOM) / 4)
      this.#run.split(FIRST_AT, FIRST_AT + 2 * ROOM, FIRST_AT + 4 * (to - from))
      mid.set(this.#taken(2, to - from), from)
      side.set(this.#taken(3, to - from), from)
    }
  }

  /** 16-bit samples `from` on, as parts of full scale, for as long as `out` is. */
  widen(samples: Int16Array, from: number, out: Float32Array): void {
    for (let at = 0; at < out.length; at += MOST) {
      const count = Math.min(MOST, out.length - at)
      this.#shorts.set(samples.subarray(from + at, from + at + count), FIRST_AT / 2)
      this.#run.widen(FIRST_AT, FIRST_AT + ROOM, FIRST_AT + 2 * count)
      out.set(this.#taken(1, count), at)
    }
  }

  /** Every other sample of (1 2 1)/4 from `start` on: the first `count` of `out`. */
  halve(signal: Float32Array, start: number, out: Float32Array, count: number): void {
    const most = MOST / 2
    for (let at = 0; at < count; at += most) {
      const made = Math.min(most, count - at)
      const from = start + 2 * at
      this.#floats.set(signal.subarray(from, from + 2 * made + 1), FIRST_AT / 4)
      this.#run.halve(FIRST_AT, FIRST_AT + ROOM, FIRST_AT + ROOM + 4 * made)
      out.set(this.#taken(1, made), at)
    }
  }

  #taken(room: number, count: number): Float32Array {
    const at = (FIRST_AT + room * ROOM) / 4
    return this.#floats.subarray(at, at + count)
  }
}

function kernelModule(): Uint8Array<ArrayBuffer> {
  const bytes = FIRST_AT + 4 * ROOM
  return writeModule(
    [splitFunction(), widenFunction(), halveFunction()],
    Math.ceil(bytes / PAGE_BYTES),
  )
}

const [FROM_PARAM, TO_PARAM, END_PARAM] = [0, 1, 2]
const [FIRST, SECOND, THIRD] = [3, 4, 5]

const at = (offset: number) => [2, ...leb(offset)]
const load = (offset: number) => [...get(FROM_PARAM), ...OP.v128Load, ...at(offset)]
const constant = (place: number, local: number) => [
  ...[...OP.i32Const, ...leb(0), ...OP.v128Load32Splat, ...at(place)],
  ...set(local),
]
const store = (offset: number, value: readonly number[]) => [
  ...get(TO_PARAM),
  ...value,
  ...[...OP.v128Store, ...at(offset)],
]

function splitFunction(): WasmFunction {
  const half = THIRD
  const scaled = (op: readonly number[]) => [
    ...[...get(FIRST), ...get(SECOND), ...op],
    ...[...get(half), ...OP.f32x4Mul],
  ]
  return {
    name: 'split',
    vectors: 3,
    code: [
      ...constant(HALF_AT, half),
      ...OP.loop,
      ...[...load(0), ...set(FIRST)],
      ...[...load(ROOM), ...set(SECOND)],
      ...store(0, scaled(OP.f32x4Add)),
      ...store(ROOM, scaled(OP.f32x4Sub)),
      ...advance(FROM_PARAM, VECTOR_BYTES),
      ...advance(TO_PARAM, VECTOR_BYTES),
      ...untilReached(FROM_PARAM, END_PARAM),
    ],
  }
}

function widenFunction(): WasmFunction {
  // Halved fifteen times in all: by constants that are there, exact as all powers of two are.
  const scale = FIRST
  const quarters = Array.from({ length: 7 }, () => [...get(SECOND), ...OP.f32x4Mul]).flat()
  return {
    name: 'widen',
    vectors: 2,
    code: [
      ...constant(HALF_AT, scale),
      ...constant(QUARTER_AT, SECOND),
      ...[...get(scale), ...quarters, ...set(scale)],
      ...OP.loop,
      ...store(0, [
        ...[...get(FROM_PARAM), ...OP.v128Load16x4, ...at(0), ...OP.f32x4ConvertI32x4],
        ...[...get(scale), ...OP.f32x4Mul],
      ]),
      ...advance(FROM_PARAM, VECTOR_BYTES / 2),
      ...advance(TO_PARAM, VECTOR_BYTES),
      ...untilReached(FROM_PARAM, END_PARAM),
    ],
  }
}

function halveFunction(): WasmFunction {
  const [half, quarter] = [FIRST, SECOND]
  const taken = (offset: number, list: readonly number[]) => [
    ...[...load(offset), ...load(offset + VECTOR_BYTES)],
    ...[...OP.i8x16Shuffle, ...lanes(list)],
  ]
  return {
    name: 'halve',
    vectors: 2,
    code: [
      ...constant(HALF_AT, half),
      ...constant(QUARTER_AT, quarter),
      ...OP.loop,
      ...store(0, [
        // Samples at even places, and those two further on.
        ...taken(0, [0, 2, 4, 6]),
        ...taken(8, [0, 2, 4, 6]),
        ...[...OP.f32x4Add, ...get(quarter), ...OP.f32x4Mul],
        ...taken(0, [1, 3, 5, 7]),
        ...[...get(half), ...OP.f32x4Mul, ...OP.f32x4Add],
      ]),
      ...advance(FROM_PARAM, 2 * VECTOR_BYTES),
      ...advance(TO_PARAM, VECTOR_BYTES),
      ...untilReached(TO_PARAM, END_PARAM),
    ],
  }
}
