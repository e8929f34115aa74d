import { leb, OP, type WasmFunction, writeModule } from '../wasm'
import { STEP_NUMBERS } from './svf'

/**
 * The code of the section kernel, instruction by instruction: sections in series over two channels in
 * WebAssembly SIMD, both channels in one vector, two sections per pass, so that their steps overlap. The
 * twin of `runSections` in plain code, to rounding.
 *
 * Memory: sections one after another (nine numbers of the step, then both states of both channels), the
 * samples of left and right, and the same side by side in double precision.
 */
export function kernelModule(): Uint8Array<ArrayBuffer> {
  return writeModule(
    [
      ...GROUPS.map((count) => passFunction(count)),
      glideFunction(),
      widenFunction(),
      narrowFunction(),
    ],
    PAGES,
  )
}

export const STATE_BYTES = 80
export const SECTION_BYTES = 128
export const MOST_SECTIONS = 64
export const MOST_FRAMES = 1024
export const LEFT_AT = MOST_SECTIONS * SECTION_BYTES
export const RIGHT_OFFSET = MOST_FRAMES * 4
export const WORK_AT = LEFT_AT + 2 * RIGHT_OFFSET
/** Where a gliding section's changes per frame stand, behind the section itself. */
export const DELTA_AT = SECTION_BYTES
const PAGES = 1
/** Sections that one pass takes. */
export const GROUPS = [2, 1] as const

/** Name of the exported pass over some sections. */
export function passName(count: number): string {
  return `pass${count}`
}

const SECTIONS_PARAM = 0
const WORK_PARAM = 1
const END_PARAM = 2
const FIRST_VECTOR = 3
/** Vectors per section: nine coefficients and two states; then the signal and a temporary. */
const SECTION_VECTORS = STEP_NUMBERS + 2

/** Code for sections that run together: where their vectors stand, and what is done with them. */
class SectionCode {
  readonly signal: number
  readonly temporary: number
  readonly vectors: number

  constructor(readonly count: number) {
    this.signal = FIRST_VECTOR + count * SECTION_VECTORS
    this.temporary = this.signal + 1
    this.vectors = count * SECTION_VECTORS + 2
  }

  coefficient(s: number, i: number): number {
    return FIRST_VECTOR + s * SECTION_VECTORS + i
  }

  #first(s: number): number {
    return this.coefficient(s, STEP_NUMBERS)
  }

  #second(s: number): number {
    return this.coefficient(s, STEP_NUMBERS + 1)
  }

  each(code: (s: number) => number[]): number[] {
    return Array.from({ length: this.count }, (_, s) => code(s)).flat()
  }

  load(): number[] {
    return this.each((s) => [
      ...Array.from({ length: STEP_NUMBERS }, (_, i) =>
        loadSplat(s * SECTION_BYTES + 8 * i, this.coefficient(s, i)),
      ).flat(),
      ...loadVector(s * SECTION_BYTES + STATE_BYTES, this.#first(s)),
      ...loadVector(s * SECTION_BYTES + STATE_BYTES + 16, this.#second(s)),
    ])
  }

  keep(): number[] {
    return this.each((s) => [
      ...storeVector(s * SECTION_BYTES + STATE_BYTES, this.#first(s)),
      ...storeVector(s * SECTION_BYTES + STATE_BYTES + 16, this.#second(s)),
    ])
  }

  /** aa·s1 + ab·s2 + ac·x with three coefficients from `i` on. */
  #mix(s: number, i: number): number[] {
    const term = (k: number, local: number) => [
      ...get(this.coefficient(s, k)),
      ...get(local),
      ...OP.f64x2Mul,
    ]
    return [
      ...term(i, this.#first(s)),
      ...term(i + 1, this.#second(s)),
      ...OP.f64x2Add,
      ...term(i + 2, this.signal),
      ...OP.f64x2Add,
    ]
  }

  /** One step of all sections in series. */
  step(): number[] {
    return this.each((s) => [
      ...this.#mix(s, 0),
      ...set(this.temporary),
      // The output is made before the states move on, and waits on the stack.
      ...this.#mix(s, 6),
      ...this.#mix(s, 3),
      ...set(this.#second(s)),
      ...get(this.temporary),
      ...set(this.#first(s)),
      ...set(this.signal),
    ])
  }

  /** The loop over frames, with `before` ahead of each step. */
  loop(before: readonly number[] = []): number[] {
    return [
      ...OP.loop,
      ...[...get(WORK_PARAM), ...OP.v128Load, ...at(3, 0), ...set(this.signal)],
      ...before,
      ...this.step(),
      ...[...get(WORK_PARAM), ...get(this.signal), ...OP.v128Store, ...at(3, 0)],
      ...advance(WORK_PARAM, 16),
      ...repeatUntilEnd(),
      ...OP.end,
    ]
  }
}

/** Some resting sections at once. */
function passFunction(count: number): WasmFunction {
  const code = new SectionCode(count)
  return {
    name: passName(count),
    vectors: code.vectors,
    code: [...code.load(), ...code.loop(), ...code.keep()],
  }
}

/** One section whose numbers move by a fixed amount each frame. */
function glideFunction(): WasmFunction {
  const code = new SectionCode(1)
  const change = (i: number) => FIRST_VECTOR + code.vectors + i
  const numbers = Array.from({ length: STEP_NUMBERS }, (_, i) => i)
  return {
    name: 'glide',
    vectors: code.vectors + STEP_NUMBERS,
    code: [
      ...code.load(),
      ...numbers.flatMap((i) => loadSplat(DELTA_AT + 8 * i, change(i))),
      ...code.loop(
        numbers.flatMap((i) => [
          ...get(code.coefficient(0, i)),
          ...get(change(i)),
          ...OP.f64x2Add,
          ...set(code.coefficient(0, i)),
        ]),
      ),
      ...code.keep(),
    ],
  }
}

function get(local: number): number[] {
  return [...OP.localGet, ...leb(local)]
}

function set(local: number): number[] {
  return [...OP.localSet, ...leb(local)]
}

function at(alignment: number, offset: number): number[] {
  return [alignment, ...leb(offset)]
}

function loadSplat(offset: number, local: number): number[] {
  return [...get(SECTIONS_PARAM), ...OP.v128Load64Splat, ...at(3, offset), ...set(local)]
}

function loadVector(offset: number, local: number): number[] {
  return [...get(SECTIONS_PARAM), ...OP.v128Load, ...at(3, offset), ...set(local)]
}

function storeVector(offset: number, local: number): number[] {
  return [...get(SECTIONS_PARAM), ...get(local), ...OP.v128Store, ...at(3, offset)]
}

function advance(local: number, bytes: number): number[] {
  return [...get(local), ...OP.i32Const, ...leb(bytes), ...OP.i32Add, ...set(local)]
}

function repeatUntilEnd(): number[] {
  return [...get(WORK_PARAM), ...get(END_PARAM), ...OP.i32LtU, ...OP.brIf, 0]
}

/** Left and right, in single precision, to one vector per frame. */
function widenFunction(): WasmFunction {
  return {
    name: 'widen',
    vectors: 0,
    code: [
      ...OP.loop,
      ...get(WORK_PARAM),
      ...get(SECTIONS_PARAM),
      ...get(SECTIONS_PARAM),
      ...OP.v128Load32Zero,
      ...at(2, 0),
      ...OP.v128Load32Lane,
      ...at(2, RIGHT_OFFSET),
      1,
      ...OP.f64x2PromoteF32x4,
      ...OP.v128Store,
      ...at(3, 0),
      ...advance(SECTIONS_PARAM, 4),
      ...advance(WORK_PARAM, 16),
      ...repeatUntilEnd(),
      ...OP.end,
    ],
  }
}

/** One vector per frame back to left and right. */
function narrowFunction(): WasmFunction {
  const value = FIRST_VECTOR
  return {
    name: 'narrow',
    vectors: 1,
    code: [
      ...OP.loop,
      ...get(WORK_PARAM),
      ...OP.v128Load,
      ...at(3, 0),
      ...OP.f32x4DemoteF64x2,
      ...set(value),
      ...get(SECTIONS_PARAM),
      ...get(value),
      ...OP.v128Store32Lane,
      ...at(2, 0),
      0,
      ...get(SECTIONS_PARAM),
      ...get(value),
      ...OP.v128Store32Lane,
      ...at(2, RIGHT_OFFSET),
      1,
      ...advance(SECTIONS_PARAM, 4),
      ...advance(WORK_PARAM, 16),
      ...repeatUntilEnd(),
      ...OP.end,
    ],
  }
}
