import type { Biquad } from '../filters'
import {
  advance,
  get,
  instantiate,
  type KernelRun,
  leb,
  OP,
  set,
  untilReached,
  type WasmFunction,
  type WasmHost,
  writeModule,
} from '../wasm'

/** Frames that are taken in one go. */
const MOST = 8192
const COEFFICIENTS = 5
const SECTIONS = 2
const VECTOR_BYTES = 16
const PAGE_BYTES = 65536
/** Both sections' coefficients, then their states and the sum of squares, left and right side by side. */
const STATES_AT = 8 * COEFFICIENTS * SECTIONS
const SUM_AT = STATES_AT + 2 * SECTIONS * VECTOR_BYTES
const LEFT_AT = 256
const RIGHT_OFFSET = 4 * MOST

/** Sum of squares of a stereo sound behind two sections in series, both channels at once in double precision. */
export class EnergyKernel {
  readonly #floats: Float32Array
  readonly #doubles: Float64Array
  readonly #run: KernelRun

  constructor(wasm: WasmHost) {
    const { buffer, run } = instantiate(wasm, kernelModule)
    this.#floats = new Float32Array(buffer)
    this.#doubles = new Float64Array(buffer)
    this.#run = run.energy
  }

  /**
   * Samples `from` to `to`. @param states of both channels: two of either section; they go on.
   */
  energy(
    [left, right]: readonly Float32Array[],
    from: number,
    to: number,
    sections: readonly Biquad[],
    states: readonly Float64Array[],
  ): number {
    const memory = this.#doubles
    sections.forEach(({ b0, b1, b2, a1, a2 }, s) => {
      memory.set([b0, b1, b2, -a1, -a2], s * COEFFICIENTS)
    })
    states.forEach((state, c) => {
      for (let i = 0; i < 2 * SECTIONS; i++) memory[STATES_AT / 8 + 2 * i + c] = state[i]
    })
    memory.fill(0, SUM_AT / 8, SUM_AT / 8 + 2)
    for (let at = from; at < to; at += MOST) {
      const count = Math.min(MOST, to - at)
      this.#floats.set(left.subarray(at, at + count), LEFT_AT / 4)
      this.#floats.set(right.subarray(at, at + count), (LEFT_AT + RIGHT_OFFSET) / 4)
      this.#run(LEFT_AT, 0, LEFT_AT + 4 * count)
    }
    states.forEach((state, c) => {
      for (let i = 0; i < 2 * SECTIONS; i++) state[i] = memory[STATES_AT / 8 + 2 * i + c]
    })
    return memory[SUM_AT / 8] + memory[SUM_AT / 8 + 1]
  }
}

function kernelModule(fused: boolean): Uint8Array<ArrayBuffer> {
  const bytes = LEFT_AT + 2 * RIGHT_OFFSET
  return writeModule([energyFunction(fused)], Math.ceil(bytes / PAGE_BYTES))
}

const [FROM_PARAM, , END_PARAM] = [0, 1, 2]
const FIRST = 3
/** Locals: coefficients, states, the sum, the signal and what comes out of a section. */
const coefficient = (s: number, i: number) => FIRST + s * COEFFICIENTS + i
const state = (s: number, i: number) => FIRST + SECTIONS * COEFFICIENTS + 2 * s + i
const SUM = state(SECTIONS, 0)
const SIGNAL = SUM + 1
const OUT = SIGNAL + 1

const at = (offset: number) => [3, ...leb(offset)]
const base = [...OP.i32Const, ...leb(0)]

function energyFunction(fused: boolean): WasmFunction {
  const times = (a: number, b: number) => [...get(a), ...get(b), ...OP.f64x2Mul]
  const plus = (a: number, b: number, sum: readonly number[]) =>
    fused
      ? [...get(a), ...get(b), ...sum, ...OP.f64x2RelaxedMadd]
      : [...sum, ...times(a, b), ...OP.f64x2Add]
  const eachState = (code: (local: number, place: number) => number[]) =>
    [0, 1].flatMap((s) =>
      [0, 1].flatMap((i) => code(state(s, i), STATES_AT + VECTOR_BYTES * (2 * s + i))),
    )
  /** Transposed direct form II; the signal becomes what comes out. */
  const section = (s: number) => [
    ...[...plus(coefficient(s, 0), SIGNAL, get(state(s, 0))), ...set(OUT)],
    ...plus(coefficient(s, 3), OUT, plus(coefficient(s, 1), SIGNAL, get(state(s, 1)))),
    ...set(state(s, 0)),
    ...plus(coefficient(s, 4), OUT, times(coefficient(s, 2), SIGNAL)),
    ...set(state(s, 1)),
    ...[...get(OUT), ...set(SIGNAL)],
  ]
  return {
    name: 'energy',
    vectors: OUT - FIRST + 1,
    code: [
      ...[0, 1].flatMap((s) =>
        Array.from({ length: COEFFICIENTS }, (_, i) => [
          ...[...base, ...OP.v128Load64Splat, ...at(8 * (s * COEFFICIENTS + i))],
          ...set(coefficient(s, i)),
        ]).flat(),
      ),
      ...eachState((local, place) => [...base, ...OP.v128Load, ...at(place), ...set(local)]),
      ...[...base, ...OP.v128Load, ...at(SUM_AT), ...set(SUM)],
      ...OP.loop,
      ...get(FROM_PARAM),
      ...[...get(FROM_PARAM), ...OP.v128Load32Zero, 2, ...leb(0)],
      ...[...OP.v128Load32Lane, 2, ...leb(RIGHT_OFFSET), 1],
      ...[...OP.f64x2PromoteF32x4, ...set(SIGNAL)],
      ...section(0),
      ...section(1),
      ...[...plus(SIGNAL, SIGNAL, get(SUM)), ...set(SUM)],
      ...advance(FROM_PARAM, 4),
      ...untilReached(FROM_PARAM, END_PARAM),
      ...eachState((local, place) => [...base, ...get(local), ...OP.v128Store, ...at(place)]),
      ...[...base, ...get(SUM), ...OP.v128Store, ...at(SUM_AT)],
    ],
  }
}
