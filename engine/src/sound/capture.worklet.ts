/** The audio worklet's surroundings, as far as they are used here. */
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

/** What the worklet sends: a piece of one or two channels. */
export type CapturedPiece = readonly Float32Array[]

const PIECE_FRAMES = 2048

/** Hands what comes in to the page, piece by piece, and puts nothing out. */
class CaptureProcessor extends AudioWorkletProcessor {
  #piece: Float32Array[] = []
  #count = 0

  process([input]: Float32Array[][]): boolean {
    const channels = input.slice(0, 2)
    if (channels.length === 0) return true
    if (channels.length !== this.#piece.length) this.#begin(channels.length)
    for (let c = 0; c < channels.length; c++) this.#piece[c].set(channels[c], this.#count)
    this.#count += channels[0].length
    if (this.#count < PIECE_FRAMES) return true
    this.port.postMessage(this.#piece satisfies CapturedPiece)
    this.#begin(channels.length)
    return true
  }

  #begin(channels: number): void {
    this.#piece = Array.from({ length: channels }, () => new Float32Array(PIECE_FRAMES))
    this.#count = 0
  }
}

registerProcessor('sober-prism-capture', CaptureProcessor)
