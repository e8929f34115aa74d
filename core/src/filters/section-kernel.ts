import type { WasmHost } from '../spectrum'
import { type Passes, STEP_NUMBERS, type SvfSection } from './svf'
import { leb, OP, type WasmFunction, writeModule } from './wasm-writer'

/**
 * Sections in series over two channels in WebAssembly SIMD: both channels in one vector, some sections per
 * pass, so that their steps overlap. The twin of `runSections` in plain code, to rounding.
 */
const STATE_BYTES = 80
const SECTION_BYTES = 128
const MOST_SECTIONS = 64
/** Samples as they come, left and right, and the same side by side in double precision. */
const MOST_FRAMES = 1024
const LEFT_AT = MOST_SECTIONS * SECTION_BYTES
const RIGHT_OFFSET = MOST_FRAMES * 4
const WORK_AT = LEFT_AT + 2 * RIGHT_OFFSET
const PAGES = 1
/** From this length on copying by views is worth the objects it makes; the audio thread's blocks are shorter. */
const WORTH_A_VIEW = 512
/** Sections that one pass takes. */
const GROUPS = [2, 1] as const

type Run = (sections: number, work: number, end: number) => void

/** Where a gliding section's changes per frame stand, behind the section itself. */
const DELTA_AT = SECTION_BYTES

interface Kernel {
  readonly memory: Float64Array
  readonly left: Float32Array
  readonly right: Float32Array
  readonly widen: Run
  readonly narrow: Run
  readonly glide: Run
  /** A pass for each of the groups. */
  readonly run: readonly Run[]
}

let kernel: Kernel | null = null

/** Compiles the kernel in this realm; without it sections run in plain code. */
export function installSectionKernel(wasm: WasmHost): void {
  const bytes = writeModule(
    [
      ...GROUPS.map((count) => passFunction(count)),
      glideFunction(),
      widenFunction(),
      narrowFunction(),
    ],
    PAGES,
  )
  const instance = new wasm.Instance(new wasm.Module(bytes), {})
  const exports = instance.exports as Record<string, Run> & { memory: { buffer: ArrayBuffer } }
  kernel = {
    memory: new Float64Array(exports.memory.buffer),
    left: new Float32Array(exports.memory.buffer, LEFT_AT, MOST_FRAMES),
    right: new Float32Array(exports.memory.buffer, LEFT_AT + RIGHT_OFFSET, MOST_FRAMES),
    widen: exports.widen,
    narrow: exports.narrow,
    glide: exports.glide,
    run: GROUPS.map((count) => exports[passName(count)]),
  }
}

/** Takes the kernel away again, for comparing. */
export function removeSectionKernel(): void {
  kernel = null
}

/**
 * Runs sections over frames `from` to `from + frames` (at most {@link KERNEL_FRAMES}) of two channels if
 * the kernel is there and they fit; tells whether it did.
 */
export function runInKernel(
  sections: readonly SvfSection[],
  left: Float32Array,
  right: Float32Array,
  from: number,
  frames: number,
): boolean {
  if (sections.length > MOST_SECTIONS || !kernelPasses.open(left, right, from, frames)) return false
  if (!kernel) return false
  for (let s = 0; s < sections.length; s++) writeSection(kernel.memory, sections[s], s)
  let done = 0
  for (let g = 0; g < GROUPS.length; g++) {
    const count = GROUPS[g]
    for (; sections.length - done >= count; done += count) {
      kernel.run[g](done * SECTION_BYTES, WORK_AT, WORK_AT + 16 * frames)
    }
  }
  for (let s = 0; s < sections.length; s++) readState(kernel.memory, sections[s], s)
  kernelPasses.close(left, right, from)
  return true
}

function writeSection(memory: Float64Array, { step, state }: SvfSection, index: number): void {
  const at = (index * SECTION_BYTES) / 8
  for (let i = 0; i < STEP_NUMBERS; i++) memory[at + i] = step[i]
  // Channel by channel becomes state by state.
  memory[at + STATE_BYTES / 8] = state[0]
  memory[at + STATE_BYTES / 8 + 1] = state[2]
  memory[at + STATE_BYTES / 8 + 2] = state[1]
  memory[at + STATE_BYTES / 8 + 3] = state[3]
}

function readState(memory: Float64Array, { state }: SvfSection, index: number): void {
  const at = (index * SECTION_BYTES + STATE_BYTES) / 8
  state[0] = settle(memory[at])
  state[2] = settle(memory[at + 1])
  state[1] = settle(memory[at + 2])
  state[3] = settle(memory[at + 3])
}

/** {@link Passes} in the kernel: between `open` and `close`, over the stretch that was opened. */
class KernelPasses implements Passes {
  #frames = 0

  /** Takes a stretch of two channels in; false where there is no kernel. */
  open(left: Float32Array, right: Float32Array, from: number, frames: number): boolean {
    if (!kernel || frames > MOST_FRAMES) return false
    if (frames >= WORTH_A_VIEW) {
      kernel.left.set(left.subarray(from, from + frames))
      kernel.right.set(right.subarray(from, from + frames))
    } else {
      for (let i = 0; i < frames; i++) {
        kernel.left[i] = left[from + i]
        kernel.right[i] = right[from + i]
      }
    }
    this.#frames = frames
    kernel.widen(LEFT_AT, WORK_AT, WORK_AT + 16 * frames)
    return true
  }

  rest(section: SvfSection): void {
    if (!kernel) return
    writeSection(kernel.memory, section, 0)
    kernel.run[GROUPS.length - 1](0, WORK_AT, WORK_AT + 16 * this.#frames)
    readState(kernel.memory, section, 0)
  }

  glide(section: SvfSection, goal: Float64Array, share: number): void {
    if (!kernel) return
    const { memory } = kernel
    writeSection(memory, section, 0)
    const { step } = section
    const portion = share / this.#frames
    for (let i = 0; i < STEP_NUMBERS; i++) {
      memory[DELTA_AT / 8 + i] = (goal[i] - step[i]) * portion
    }
    kernel.glide(0, WORK_AT, WORK_AT + 16 * this.#frames)
    readState(memory, section, 0)
    section.approach(goal, share)
  }

  /** Gives the treated stretch back. */
  close(left: Float32Array, right: Float32Array, from: number): void {
    if (!kernel) return
    kernel.narrow(LEFT_AT, WORK_AT, WORK_AT + 16 * this.#frames)
    const frames = this.#frames
    if (frames >= WORTH_A_VIEW) {
      left.set(kernel.left.subarray(0, frames), from)
      right.set(kernel.right.subarray(0, frames), from)
      return
    }
    for (let i = 0; i < frames; i++) {
      left[from + i] = kernel.left[i]
      right[from + i] = kernel.right[i]
    }
  }
}

/** The passes of this realm's kernel. */
export const kernelPasses = new KernelPasses()

/** The longest stretch that the kernel takes at once. */
export const KERNEL_FRAMES = MOST_FRAMES

/** Subnormal numbers are slow and inaudible. */
function settle(value: number): number {
  return value < 1e-30 && value > -1e-30 ? 0 : value
}

function passName(count: number): string {
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
