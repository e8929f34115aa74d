/** Of a long passage a few stretches are read. */
const WHOLE_SECONDS = 60
const STRETCHES = 3
const STRETCH_SECONDS = 16

/** A part of a sound that is collected while the sound passes by. */
export class Stretch {
  #signals: Float32Array[] | null = null

  constructor(
    private readonly from: number,
    private readonly to: number,
    private readonly channels: number,
  ) {}

  /** Takes what of a piece lies in the stretch. @returns true when the stretch is complete with it. */
  add(piece: readonly Float32Array[], position: number): boolean {
    const end = position + piece[0].length
    if (position >= this.to || end <= this.from) return false
    this.#signals ??= this.#empty()
    const first = Math.max(this.from, position)
    const last = Math.min(this.to, end)
    this.#signals.forEach((signal, i) => {
      signal.set(piece[i].subarray(first - position, last - position), first - this.from)
    })
    return last === this.to
  }

  /** The signals; they are let go of. */
  take(): Float32Array[] {
    const signals = this.#signals ?? this.#empty()
    this.#signals = null
    return signals
  }

  #empty(): Float32Array[] {
    return Array.from({ length: this.channels }, () => new Float32Array(this.to - this.from))
  }
}

/** The stretches in which the low range is read, and rings are looked for: all of a short passage. */
export function stretches(frames: number, sampleRateHz: number): [number, number][] {
  if (frames <= WHOLE_SECONDS * sampleRateHz) return [[0, frames]]
  const length = STRETCH_SECONDS * sampleRateHz
  return Array.from({ length: STRETCHES }, (_, i) => {
    const from = Math.round(((frames - length) * (i + 0.5)) / STRETCHES)
    return [from, from + length]
  })
}

/** Signals one after the other. */
export function joined(parts: readonly Float32Array[]): Float32Array {
  if (parts.length === 1) return parts[0]
  const out = new Float32Array(parts.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}
