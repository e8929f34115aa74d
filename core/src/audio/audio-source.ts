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
  /** Brings a stretch to hand; undefined when nothing has to be waited for. @throws when it is gone. */
  prefetch(fromFrame: number, toFrame: number): Promise<void> | undefined
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
