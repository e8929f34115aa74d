/** Length of each buffer in frames: 0.34 s at 48 kHz. */
export const TAP_FRAMES = 16384
const HEADER_BYTES = 16

/**
 * TapBuffers in shared memory through which the worklet shows what it plays: two for the mix, one per track
 * (its middle), two for what goes into one chain and comes out of it, and two for the sides of two nodes that are
 * compared. One writer, any number of readers.
 */
export class TapBuffers {
  readonly #written: Int32Array
  readonly #lines: Float32Array[]

  constructor(readonly buffer: SharedArrayBuffer) {
    this.#written = new Int32Array(buffer, 0, 1)
    const count = (buffer.byteLength - HEADER_BYTES) / (TAP_FRAMES * 4)
    this.#lines = Array.from(
      { length: count },
      (_, i) => new Float32Array(buffer, HEADER_BYTES + i * TAP_FRAMES * 4, TAP_FRAMES),
    )
  }

  static forTracks(tracks: number): TapBuffers {
    return new TapBuffers(new SharedArrayBuffer(HEADER_BYTES + (tracks + 6) * TAP_FRAMES * 4))
  }

  /** The line of what goes into the probed chain; the next one is what comes out of it. */
  get probeLine(): number {
    return this.#lines.length - 4
  }

  /** The line of the sides of the first of two nodes that are compared; the next one is the second's. */
  get sidesLine(): number {
    return this.#lines.length - 2
  }

  /** Frames written since the start. */
  get written(): number {
    return Atomics.load(this.#written, 0)
  }

  advance(frames: number): void {
    Atomics.add(this.#written, 0, frames)
  }

  /** Writes one sample stream; lines 0 and 1 are the mix, track n is line n + 2. */
  write(line: number, signal: Float32Array, frames: number): void {
    const buffer = this.#lines[line]
    const at = this.written
    for (let i = 0; i < frames; i++) buffer[(at + i) % TAP_FRAMES] = signal[i]
  }

  writeMiddle(line: number, left: Float32Array, right: Float32Array, frames: number): void {
    const buffer = this.#lines[line]
    const at = this.written
    for (let i = 0; i < frames; i++) buffer[(at + i) % TAP_FRAMES] = (left[i] + right[i]) / 2
  }

  writeSides(line: number, left: Float32Array, right: Float32Array, frames: number): void {
    const buffer = this.#lines[line]
    const at = this.written
    for (let i = 0; i < frames; i++) buffer[(at + i) % TAP_FRAMES] = (left[i] - right[i]) / 2
  }

  /** Copies the frames before `end` into `out`. */
  read(line: number, end: number, out: Float32Array): void {
    const buffer = this.#lines[line]
    const start = end - out.length
    for (let i = 0; i < out.length; i++) {
      const frame = start + i
      out[i] = frame < 0 ? 0 : buffer[frame % TAP_FRAMES]
    }
  }
}
