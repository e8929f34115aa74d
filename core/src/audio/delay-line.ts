/** Holds channels back by a whole number of frames, in place. */
export class DelayLine {
  readonly #lines: Float32Array[]
  #at = 0

  constructor(
    channels: number,
    readonly frames: number,
  ) {
    this.#lines = Array.from({ length: channels }, () => new Float32Array(frames))
  }

  reset(): void {
    for (const line of this.#lines) line.fill(0)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    let at = this.#at
    for (let c = 0; c < this.#lines.length; c++) {
      const line = this.#lines[c]
      const channel = channels[c]
      at = this.#at
      for (let i = 0; i < frames; i++) {
        const late = line[at]
        line[at] = channel[i]
        channel[i] = late
        if (++at === this.frames) at = 0
      }
    }
    this.#at = at
  }
}
