/**
 * A stretch of audio in memory.
 * `channels` holds one `Float32Array` per channel, ±1 full scale, all of `frames` length.
 */
export interface Clip {
  readonly sampleRateHz: number
  readonly channels: readonly Float32Array[]
  readonly frames: number
}

/** Makes a clip from channel arrays. @throws RangeError when there is no channel or lengths differ. */
export function makeClip(sampleRateHz: number, channels: readonly Float32Array[]): Clip {
  const frames = channels[0]?.length
  if (frames === undefined) throw new RangeError('A clip needs at least one channel.')
  if (channels.some((c) => c.length !== frames)) {
    throw new RangeError('All channels of a clip have the same length.')
  }
  return { sampleRateHz, channels, frames }
}

/** The frames from `from` (inclusive) to `to` (exclusive), as views on the same memory. */
export function sliceClip(clip: Clip, from: number, to: number): Clip {
  const start = Math.max(0, Math.min(clip.frames, Math.round(from)))
  const end = Math.max(start, Math.min(clip.frames, Math.round(to)))
  return makeClip(
    clip.sampleRateHz,
    clip.channels.map((c) => c.subarray(start, end)),
  )
}

/** A signal times a gain. */
export function scaled(signal: Float32Array, gain: number): Float32Array {
  const out = new Float32Array(signal.length)
  for (let i = 0; i < out.length; i++) out[i] = gain * signal[i]
  return out
}

/** Largest absolute sample over all channels, as an amplitude. */
export function samplePeak(channels: readonly Float32Array[]): number {
  let peak = 0
  for (const channel of channels) {
    for (let i = 0; i < channel.length; i++) {
      const a = Math.abs(channel[i])
      if (a > peak) peak = a
    }
  }
  return peak
}

/**
 * Correlation of left and right, -1 to 1: 1 for mono or identical channels, 0 for unrelated ones.
 * `null` when either side is silent.
 */
export function channelCorrelation(clip: Clip): number | null {
  const meter = new CorrelationMeter()
  meter.add(clip.channels)
  return meter.read()
}

/** {@link channelCorrelation} of a sound that comes in pieces. */
export class CorrelationMeter {
  #lr = 0
  #ll = 0
  #rr = 0

  add([left, right = left]: readonly Float32Array[]): void {
    let lr = 0
    let ll = 0
    let rr = 0
    for (let i = 0; i < left.length; i++) {
      lr += left[i] * right[i]
      ll += left[i] * left[i]
      rr += right[i] * right[i]
    }
    this.#lr += lr
    this.#ll += ll
    this.#rr += rr
  }

  read(): number | null {
    if (this.#ll < 1e-15 || this.#rr < 1e-15) return null
    return Math.max(-1, Math.min(1, this.#lr / Math.sqrt(this.#ll * this.#rr)))
  }
}
