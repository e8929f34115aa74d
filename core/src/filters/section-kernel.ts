import type { WasmHost } from '../spectrum'
import type { SvfSection } from './svf'
import { leb, OP, type WasmFunction, writeModule } from './wasm-writer'

/**
 * Sections in series over two channels in WebAssembly SIMD: both channels in one vector, some sections per
 * pass, so that their steps overlap. The twin of `runSections` in plain code, to rounding.
 */
const STEP_NUMBERS = 9
const STATE_BYTES = 80
const SECTION_BYTES = 128
const MOST_SECTIONS = 64
/** Samples as they come, left and right, and the same side by side in double precision. */
const MOST_FRAMES = 1024
const LEFT_AT = MOST_SECTIONS * SECTION_BYTES
const RIGHT_OFFSET = MOST_FRAMES * 4
const WORK_AT = LEFT_AT + 2 * RIGHT_OFFSET
const PAGES = 1
/** Sections that one pass takes. */
const GROUPS = [4, 2, 1] as const

type Run = (sections: number, work: number, end: number) => void

interface Kernel {
  readonly memory: Float64Array
  readonly left: Float32Array
  readonly right: Float32Array
  readonly widen: Run
  readonly narrow: Run
  /** A pass for each of the groups. */
  readonly run: readonly Run[]
}

let kernel: Kernel | null = null

/** Compiles the kernel in this realm; without it sections run in plain code. */
export function installSectionKernel(wasm: WasmHost): void {
  const bytes = writeModule(
    [...GROUPS.map((count) => passFunction(count)), widenFunction(), narrowFunction()],
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
  if (!kernel || sections.length > MOST_SECTIONS || frames > MOST_FRAMES) return false
  const { memory, run } = kernel
  for (let s = 0; s < sections.length; s++) {
    const at = (s * SECTION_BYTES) / 8
    const { step, state } = sections[s]
    for (let i = 0; i < STEP_NUMBERS; i++) memory[at + i] = step[i]
    // Channel by channel becomes state by state.
    memory[at + STATE_BYTES / 8] = state[0]
    memory[at + STATE_BYTES / 8 + 1] = state[2]
    memory[at + STATE_BYTES / 8 + 2] = state[1]
    memory[at + STATE_BYTES / 8 + 3] = state[3]
  }
  for (let i = 0; i < frames; i++) {
    kernel.left[i] = left[from + i]
    kernel.right[i] = right[from + i]
  }
  kernel.widen(LEFT_AT, WORK_AT, WORK_AT + 16 * frames)
  let done = 0
  for (let g = 0; g < GROUPS.length; g++) {
    const count = GROUPS[g]
    for (; sections.length - done >= count; done += count) {
      run[g](done * SECTION_BYTES, WORK_AT, WORK_AT + 16 * frames)
    }
  }
  kernel.narrow(LEFT_AT, WORK_AT, WORK_AT + 16 * frames)
  for (let i = 0; i < frames; i++) {
    left[from + i] = kernel.left[i]
    right[from + i] = kernel.right[i]
  }
  for (let s = 0; s < sections.length; s++) {
    const at = (s * SECTION_BYTES + STATE_BYTES) / 8
    const { state } = sections[s]
    state[0] = settle(memory[at])
    state[2] = settle(memory[at + 1])
    state[1] = settle(memory[at + 2])
    state[3] = settle(memory[at + 3])
  }
  return true
}

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

/** The loop over frames for some sections at once. */
function passFunction(count: number): WasmFunction {
  const coefficient = (s: number, i: number) => FIRST_VECTOR + s * SECTION_VECTORS + i
  const first = (s: number) => coefficient(s, STEP_NUMBERS)
  const second = (s: number) => coefficient(s, STEP_NUMBERS + 1)
  const signal = FIRST_VECTOR + count * SECTION_VECTORS
  const temporary = signal + 1
  /** aa·s1 + ab·s2 + ac·x with three coefficients from `i` on. */
  const mix = (s: number, i: number) => [
    ...[...get(coefficient(s, i)), ...get(first(s)), ...OP.f64x2Mul],
    ...[...get(coefficient(s, i + 1)), ...get(second(s)), ...OP.f64x2Mul],
    ...OP.f64x2Add,
    ...[...get(coefficient(s, i + 2)), ...get(signal), ...OP.f64x2Mul],
    ...OP.f64x2Add,
  ]
  const sections = Array.from({ length: count }, (_, s) => s)
  const load = sections.flatMap((s) => [
    ...Array.from({ length: STEP_NUMBERS }, (_, i) => [
      ...get(SECTIONS_PARAM),
      ...OP.v128Load64Splat,
      ...at(3, s * SECTION_BYTES + 8 * i),
      ...set(coefficient(s, i)),
    ]).flat(),
    ...get(SECTIONS_PARAM),
    ...OP.v128Load,
    ...at(3, s * SECTION_BYTES + STATE_BYTES),
    ...set(first(s)),
    ...get(SECTIONS_PARAM),
    ...OP.v128Load,
    ...at(3, s * SECTION_BYTES + STATE_BYTES + 16),
    ...set(second(s)),
  ])
  const body = sections.flatMap((s) => [
    ...mix(s, 0),
    ...set(temporary),
    // The output is made before the states move on, and waits on the stack.
    ...mix(s, 6),
    ...mix(s, 3),
    ...set(second(s)),
    ...get(temporary),
    ...set(first(s)),
    ...set(signal),
  ])
  const keep = sections.flatMap((s) => [
    ...get(SECTIONS_PARAM),
    ...get(first(s)),
    ...OP.v128Store,
    ...at(3, s * SECTION_BYTES + STATE_BYTES),
    ...get(SECTIONS_PARAM),
    ...get(second(s)),
    ...OP.v128Store,
    ...at(3, s * SECTION_BYTES + STATE_BYTES + 16),
  ])
  return {
    name: passName(count),
    vectors: count * SECTION_VECTORS + 2,
    code: [
      ...load,
      ...OP.loop,
      ...[...get(WORK_PARAM), ...OP.v128Load, ...at(3, 0), ...set(signal)],
      ...body,
      ...[...get(WORK_PARAM), ...get(signal), ...OP.v128Store, ...at(3, 0)],
      ...advance(WORK_PARAM, 16),
      ...repeatUntilEnd,
      ...OP.end,
      ...keep,
    ],
  }
}

const get = (local: number) => [...OP.localGet, ...leb(local)]
const set = (local: number) => [...OP.localSet, ...leb(local)]
const at = (alignment: number, offset: number) => [alignment, ...leb(offset)]
const advance = (local: number, bytes: number) => [
  ...get(local),
  ...OP.i32Const,
  ...leb(bytes),
  ...OP.i32Add,
  ...set(local),
]
const repeatUntilEnd = [...get(WORK_PARAM), ...get(END_PARAM), ...OP.i32LtU, ...OP.brIf, 0]

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
      ...repeatUntilEnd,
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
      ...repeatUntilEnd,
      ...OP.end,
    ],
  }
}
