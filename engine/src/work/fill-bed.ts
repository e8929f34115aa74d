import { addScaled } from '@sober-prism/core/mix'

/** Where the sound of tracks is added up while they are measured, so that the mix need not read them again. */
export interface BedTarget {
  /** Stretches of the time line, which overlap a little, in shared memory. */
  readonly parts: readonly {
    readonly fromFrame: number
    readonly left: Float32Array
    readonly right: Float32Array
  }[]
  /** One for each part, in shared memory: one worker at a time adds to it. */
  readonly locks: Int32Array
}

const LONGEST_WAIT_MS = 5000

/** Adds a stretch of stereo sound that begins at `position`, times the gains of both sides. */
export function addToBed(
  { parts, locks }: BedTarget,
  position: number,
  [left, right = left]: readonly Float32Array[],
  [gainLeft, gainRight]: readonly [number, number],
): void {
  const end = position + left.length
  for (const [index, part] of parts.entries()) {
    const from = Math.max(position, part.fromFrame)
    const to = Math.min(end, part.fromFrame + part.left.length)
    if (from >= to) continue
    whileLocked(locks, index, () => {
      add(part.left, from - part.fromFrame, left, from - position, to - from, gainLeft)
      add(part.right, from - part.fromFrame, right, from - position, to - from, gainRight)
    })
  }
}

function add(
  sum: Float32Array,
  at: number,
  signal: Float32Array,
  from: number,
  frames: number,
  gain: number,
): void {
  addScaled(signal.subarray(from, from + frames), gain, sum.subarray(at, at + frames))
}

function whileLocked(locks: Int32Array, index: number, work: () => void): void {
  while (Atomics.compareExchange(locks, index, 0, 1) !== 0) {
    // Whoever holds it for so long has ended, and the beds with it: nobody waits for ever.
    if (Atomics.wait(locks, index, 1, LONGEST_WAIT_MS) === 'timed-out') break
  }
  try {
    work()
  } finally {
    Atomics.store(locks, index, 0)
    Atomics.notify(locks, index, 1)
  }
}
