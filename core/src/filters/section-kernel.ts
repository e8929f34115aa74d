import type { WasmHost } from '../wasm'
import { instantiate, type KernelRun } from '../wasm'
import {
  DELTA_AT,
  DIRECT_GROUPS,
  directName,
  kernelModule,
  LEFT_AT,
  MOST_FRAMES,
  MOST_SECTIONS,
  RIGHT_OFFSET,
  SECTION_BYTES,
  STATE_BYTES,
  STEP_GROUPS,
  stepName,
  WORK_AT,
} from './section-code'
import { FROM_DIRECT, type Passes, STEP_NUMBERS, type SvfSection, settle, TO_DIRECT } from './svf'

/** From this length on copying by views is worth the objects it makes; the audio thread's blocks are shorter. */
const WORTH_A_VIEW = 512

interface Kernel {
  readonly memory: Float64Array
  readonly left: Float32Array
  readonly right: Float32Array
  readonly widen: KernelRun
  readonly narrow: KernelRun
  readonly glide: KernelRun
  /** A pass for each of the groups. */
  readonly steps: readonly KernelRun[]
  readonly directs: readonly KernelRun[]
}

let kernel: Kernel | null = null

/** Compiles the kernel in this realm; without it sections run in plain code. */
export function installSectionKernel(wasm: WasmHost): void {
  const { buffer, run } = instantiate(wasm, kernelModule)
  kernel = {
    memory: new Float64Array(buffer),
    left: new Float32Array(buffer, LEFT_AT, MOST_FRAMES),
    right: new Float32Array(buffer, LEFT_AT + RIGHT_OFFSET, MOST_FRAMES),
    widen: run.widen,
    narrow: run.narrow,
    glide: run.glide,
    steps: STEP_GROUPS.map((count) => run[stepName(count)]),
    directs: DIRECT_GROUPS.map((count) => run[directName(count)]),
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
  for (let from = 0; from < sections.length; ) from = runAlike(kernel, sections, from, frames)
  kernelPasses.close(left, right, from)
  return true
}

/** Runs the sections from `first` on that stand in the same form; returns the one after them. */
function runAlike(
  { memory, steps, directs }: Kernel,
  sections: readonly SvfSection[],
  first: number,
  frames: number,
): number {
  const inDirect = sections[first].direct !== null
  let end = first
  for (; end < sections.length && (sections[end].direct !== null) === inDirect; end++) {
    if (inDirect) writeDirect(memory, sections[end], end)
    else writeSection(memory, sections[end], end)
  }
  const groups = inDirect ? DIRECT_GROUPS : STEP_GROUPS
  const runs = inDirect ? directs : steps
  for (let g = 0, done = first; g < groups.length; g++) {
    for (; end - done >= groups[g]; done += groups[g]) {
      runs[g](done * SECTION_BYTES, WORK_AT, WORK_AT + 16 * frames)
    }
  }
  for (let s = first; s < end; s++) {
    if (inDirect) readDirect(memory, sections[s], s)
    else readState(memory, sections[s], s)
  }
  return end
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

/** A section in direct form, its states turned into those of that form. */
function writeDirect(memory: Float64Array, { direct, state }: SvfSection, index: number): void {
  if (!direct) return
  const at = (index * SECTION_BYTES) / 8
  for (let i = 0; i < TO_DIRECT; i++) memory[at + i] = direct[i]
  const states = at + STATE_BYTES / 8
  for (let c = 0; c < 2; c++) {
    const s1 = state[2 * c]
    const s2 = state[2 * c + 1]
    memory[states + c] = direct[TO_DIRECT] * s1 + direct[TO_DIRECT + 1] * s2
    memory[states + 2 + c] = direct[TO_DIRECT + 2] * s1 + direct[TO_DIRECT + 3] * s2
  }
}

function readDirect(memory: Float64Array, { direct, state }: SvfSection, index: number): void {
  if (!direct) return
  const states = (index * SECTION_BYTES + STATE_BYTES) / 8
  for (let c = 0; c < 2; c++) {
    const z1 = memory[states + c]
    const z2 = memory[states + 2 + c]
    state[2 * c] = settle(direct[FROM_DIRECT] * z1 + direct[FROM_DIRECT + 1] * z2)
    state[2 * c + 1] = settle(direct[FROM_DIRECT + 2] * z1 + direct[FROM_DIRECT + 3] * z2)
  }
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
    kernel.steps[STEP_GROUPS.length - 1](0, WORK_AT, WORK_AT + 16 * this.#frames)
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
