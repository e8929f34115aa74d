import { advance, get, leb, OP, set, untilReached, type WasmFunction, writeModule } from '../wasm'
import { STEP_NUMBERS, TO_DIRECT } from './svf'

/**
 * The code of the section kernel, instruction by instruction: sections in series over two channels in
 * WebAssembly SIMD, both channels in one vector, several sections per pass, so that their steps overlap.
 * Resting sections run in transposed direct form, moving ones and those that this form does not suit as
 * steps; the twin of `runSections` in plain code, to rounding.
 *
 * Memory: sections one after another (nine numbers of the step or five of the direct form, then both states
 * of both channels), the samples of left and right, and the same side by side in double precision.
 *
 * @param fused products and sums in one instruction, where the realm has relaxed SIMD
 */
export function kernelModule(fused: boolean): Uint8Array<ArrayBuffer> {
  return writeModule(
    [
      ...STEP_GROUPS.map((count) => passFunction(stepName(count), new StepCode(count, fused))),
      ...DIRECT_GROUPS.map((count) =>
        passFunction(directName(count), new DirectCode(count, fused)),
      ),
      glideFunction(fused),
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
/** Sections that one pass takes, as steps and in direct form; the last is 1, so that any number can be run. */
export const STEP_GROUPS = [2, 1] as const
export const DIRECT_GROUPS = [4, 2, 1] as const

/** Name of the exported pass over some sections as steps. */
export function stepName(count: number): string {
  return `step${count}`
}

/** Name of the exported pass over some sections in direct form. */
export function directName(count: number): string {
  return `direct${count}`
}

const SECTIONS_PARAM = 0
const WORK_PARAM = 1
const END_PARAM = 2
const FIRST_VECTOR = 3
/** Sections that run together: where their vectors stand, and what is done with them. */
abstract class SectionCode {
  readonly signal: number
  readonly temporary: number
  readonly vectors: number

  /** @param numbers coefficients of one section, which its two states follow */
  constructor(
    readonly count: number,
    readonly numbers: number,
    readonly fused: boolean,
  ) {
    this.signal = FIRST_VECTOR + count * (numbers + 2)
    this.temporary = this.signal + 1
    this.vectors = count * (numbers + 2) + 2
  }

  coefficient(s: number, i: number): number {
    return FIRST_VECTOR + s * (this.numbers + 2) + i
  }

  protected first(s: number): number {
    return this.coefficient(s, this.numbers)
  }

  protected second(s: number): number {
    return this.coefficient(s, this.numbers + 1)
  }

  #each(code: (s: number) => number[]): number[] {
    return Array.from({ length: this.count }, (_, s) => code(s)).flat()
  }

  load(): number[] {
    return this.#each((s) => [
      ...Array.from({ length: this.numbers }, (_, i) =>
        loadSplat(s * SECTION_BYTES + 8 * i, this.coefficient(s, i)),
      ).flat(),
      ...loadVector(s * SECTION_BYTES + STATE_BYTES, this.first(s)),
      ...loadVector(s * SECTION_BYTES + STATE_BYTES + 16, this.second(s)),
    ])
  }

  keep(): number[] {
    return this.#each((s) => [
      ...storeVector(s * SECTION_BYTES + STATE_BYTES, this.first(s)),
      ...storeVector(s * SECTION_BYTES + STATE_BYTES + 16, this.second(s)),
    ])
  }

  /** Coefficient `i` of a section times a local. */
  protected times(s: number, i: number, local: number): number[] {
    return [...get(this.coefficient(s, i)), ...get(local), ...OP.f64x2Mul]
  }

  /** The same, and what `sum` leaves on the stack added. */
  protected plus(s: number, i: number, local: number, sum: readonly number[]): number[] {
    if (!this.fused) return [...sum, ...this.times(s, i, local), ...OP.f64x2Add]
    return [...get(this.coefficient(s, i)), ...get(local), ...sum, ...OP.f64x2RelaxedMadd]
  }

  /** One frame of one section: the signal becomes its output. */
  protected abstract step(s: number): number[]

  /** The loop over frames, with `before` ahead of each step. */
  loop(before: readonly number[] = []): number[] {
    return [
      ...OP.loop,
      ...[...get(WORK_PARAM), ...OP.v128Load, ...at(3, 0), ...set(this.signal)],
      ...before,
      ...this.#each((s) => this.step(s)),
      ...[...get(WORK_PARAM), ...get(this.signal), ...OP.v128Store, ...at(3, 0)],
      ...advance(WORK_PARAM, 16),
      ...untilReached(WORK_PARAM, END_PARAM),
    ]
  }
}

/** Sections as linear steps of two states: `SvfSection.step`. */
class StepCode extends SectionCode {
  constructor(count: number, fused: boolean) {
    super(count, STEP_NUMBERS, fused)
  }

  /** aa·s1 + (ab·s2 + ac·x) with three coefficients from `i` on. */
  #mix(s: number, i: number): number[] {
    const input = this.times(s, i + 2, this.signal)
    return this.plus(s, i, this.first(s), this.plus(s, i + 1, this.second(s), input))
  }

  protected step(s: number): number[] {
    return [
      ...this.#mix(s, 0),
      ...set(this.temporary),
      // The output is made before the states move on, and waits on the stack.
      ...this.#mix(s, 6),
      ...this.#mix(s, 3),
      ...set(this.second(s)),
      ...get(this.temporary),
      ...set(this.first(s)),
      ...set(this.signal),
    ]
  }
}

/** Sections in transposed direct form II: `SvfSection.direct`. */
class DirectCode extends SectionCode {
  constructor(count: number, fused: boolean) {
    super(count, TO_DIRECT, fused)
  }

  protected step(s: number): number[] {
    return [
      ...this.plus(s, 0, this.signal, get(this.first(s))),
      ...set(this.temporary),
      ...this.plus(s, 3, this.temporary, this.plus(s, 1, this.signal, get(this.second(s)))),
      ...set(this.first(s)),
      ...this.plus(s, 4, this.temporary, this.times(s, 2, this.signal)),
      ...set(this.second(s)),
      ...get(this.temporary),
      ...set(this.signal),
    ]
  }
}

/** Some resting sections at once. */
function passFunction(name: string, code: SectionCode): WasmFunction {
  return {
    name,
    vectors: code.vectors,
    code: [...code.load(), ...code.loop(), ...code.keep()],
  }
}

/** One section whose numbers move by a fixed amount each frame. */
function glideFunction(fused: boolean): WasmFunction {
  const code = new StepCode(1, fused)
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
      ...untilReached(WORK_PARAM, END_PARAM),
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
      ...untilReached(WORK_PARAM, END_PARAM),
    ],
  }
}
