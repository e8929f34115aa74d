/**
 * Samples that are read by stretches, wherever they are kept: a session may be longer than memory. Positions are
 * in frames from the recording's start; before and behind it there is silence.
 */
export interface AudioSource {
  readonly channels: number
  readonly frames: number
  /**
   * Copies `frames` samples of a channel from `position` on into `out`, beginning at `into`.
   * @returns false when some of them were not at hand; they are silent then.
   */
  read(channel: number, position: number, out: Float32Array, frames: number, into?: number): boolean
  /** The stretch as it lies in memory, where it lies there in one piece: for reading without a copy. */
  view(channel: number, position: number, frames: number): Float32Array | null
  /**
   * Brings stretches to hand, all of them at once, and lets go of the rest; undefined when nothing has to be waited
   * for. @throws when they are gone.
   */
  prefetch(ranges: readonly FrameRange[]): Promise<void> | undefined
}

/** Frames from one up to before another; they may lie outside a recording. */
export interface FrameRange {
  readonly fromFrame: number
  readonly toFrame: number
}

/** The blocks of a recording that ranges touch, in order. */
export function blocksOf(
  ranges: readonly FrameRange[],
  blockFrames: number,
  frames: number,
): number[] {
  const blocks = new Set<number>()
  for (const { fromFrame, toFrame } of ranges) {
    const from = Math.max(0, fromFrame)
    const end = Math.min(frames, toFrame)
    if (from >= end) continue
    for (let b = Math.floor(from / blockFrames); b * blockFrames < end; b++) blocks.add(b)
  }
  return [...blocks].sort((a, b) => a - b)
}

/** Samples that are in memory as a whole. */
export class MemorySource implements AudioSource {
  readonly channels: number
  readonly frames: number

  constructor(private readonly samples: readonly Float32Array[]) {
    this.channels = samples.length
    this.frames = samples[0]?.length ?? 0
  }

  read(channel: number, position: number, out: Float32Array, frames: number, into = 0): boolean {
    readStretch(this.samples[channel], position, out, frames, into)
    return true
  }

  view(channel: number, position: number, frames: number): Float32Array | null {
    return position >= 0 && position + frames <= this.frames
      ? this.samples[channel].subarray(position, position + frames)
      : null
  }

  prefetch(): undefined {
    return undefined
  }
}

/**
 * Copies `frames` samples from `position`, which may lie before or past the channel; silence there.
 * @param into where in `out` they begin.
 */
export function readStretch(
  channel: Float32Array,
  position: number,
  out: Float32Array,
  frames: number,
  into = 0,
): void {
  const first = Math.min(frames, Math.max(0, -position))
  const last = Math.max(first, Math.min(frames, channel.length - position))
  for (let i = 0; i < first; i++) out[into + i] = 0
  for (let i = first; i < last; i++) out[into + i] = channel[position + i]
  for (let i = last; i < frames; i++) out[into + i] = 0
}
