import { smoothStep } from '../audio'
import { MAX_BLOCK_FRAMES, type Mixer, type MixTaps } from './mixer'
import { Ramp } from './ramp'

/** A stretch that repeats, in frames. */
export interface Loop {
  readonly fromFrame: number
  readonly toFrame: number
}

const FADE_SECONDS = 0.008
const LOOP_FADE_SECONDS = 0.02

/**
 * Plays a mixer along the time line: play, pause, seek and loop without clicks. Pausing and seeking fade
 * for 8 ms; a loop's end is crossfaded with what leads up to its beginning.
 */
export class Transport {
  readonly #gate = new Ramp(0, FADE_SECONDS)
  #position = 0
  #loop: Loop | null = null
  #playing = false
  #seekTo: number | null = null
  readonly #ahead = new Float32Array(MAX_BLOCK_FRAMES)
  readonly #loopFade: number

  constructor(
    private readonly mixer: Mixer,
    private readonly rateHz: number,
  ) {
    this.#loopFade = Math.round(LOOP_FADE_SECONDS * rateHz)
  }

  get positionFrames(): number {
    return this.#seekTo ?? this.#position
  }

  /** True while sound comes out, the fade after a pause included. */
  get sounding(): boolean {
    return this.#playing || this.#gate.value > 0
  }

  get playing(): boolean {
    return this.#playing
  }

  play(): void {
    if (this.#playing) return
    this.#playing = true
    if (this.#gate.value === 0) this.mixer.reset()
    if (this.#seekTo === null) this.#gate.moveTo(1, this.rateHz)
  }

  pause(): void {
    this.#playing = false
    this.#gate.moveTo(0, this.rateHz)
  }

  seek(frame: number): void {
    this.#seekTo = Math.max(0, Math.round(frame))
    this.#gate.moveTo(0, this.rateHz)
    if (this.#gate.value === 0) this.#arrive()
  }

  setLoop(loop: Loop | null): void {
    this.#loop = loop
  }

  /** The next `frames` of sound, silence while paused. Starting from silence, the fade-in is heard. */
  process(left: Float32Array, right: Float32Array, frames: number, taps?: MixTaps): void {
    let at = 0
    while (at < frames) {
      if (!this.sounding) {
        left.fill(0, at, frames)
        right.fill(0, at, frames)
        return
      }
      const count = this.#untilLoopEnd(frames - at)
      const l = at === 0 && count === frames ? left : left.subarray(at, at + count)
      const r = at === 0 && count === frames ? right : right.subarray(at, at + count)
      this.mixer.process(l, r, count, this.#read, taps)
      this.#applyGate(l, r, count)
      this.#position += count
      at += count
      if (this.#loop && this.#position === this.#loop.toFrame) this.#position = this.#loop.fromFrame
      if (this.#gate.value === 0 && this.#seekTo !== null) this.#arrive()
    }
  }

  #arrive(): void {
    this.#position = this.#seekTo ?? this.#position
    this.#seekTo = null
    this.mixer.reset()
    if (this.#playing) this.#gate.moveTo(1, this.rateHz)
  }

  #untilLoopEnd(frames: number): number {
    const end = this.#loop?.toFrame
    return end !== undefined && this.#position < end
      ? Math.min(frames, end - this.#position)
      : frames
  }

  #applyGate(left: Float32Array, right: Float32Array, frames: number): void {
    if (this.#gate.settled && this.#gate.value === 1) return
    for (let i = 0; i < frames; i++) {
      const gain = this.#gate.next()
      left[i] *= gain
      right[i] *= gain
    }
  }

  readonly #read = (
    channel: Float32Array,
    offsetFrames: number,
    out: Float32Array,
    frames: number,
  ): void => {
    const position = this.#position - offsetFrames
    readStretch(channel, position, out, frames)
    const loop = this.#loop
    if (!loop) return
    const fade = Math.min(this.#loopFade, loop.toFrame - loop.fromFrame)
    const fadeFrom = loop.toFrame - fade
    if (this.#position >= loop.toFrame || this.#position + frames <= fadeFrom) return
    const back = loop.toFrame - loop.fromFrame
    readStretch(channel, position - back, this.#ahead, frames)
    for (let i = 0; i < frames; i++) {
      const share = Math.max(0, (this.#position + i - fadeFrom + 1) / fade)
      out[i] += smoothStep(Math.min(1, share)) * (this.#ahead[i] - out[i])
    }
  }
}

/** Copies `frames` samples from `position`, which may lie before or past the channel; silence there. */
export function readStretch(
  channel: Float32Array,
  position: number,
  out: Float32Array,
  frames: number,
): void {
  for (let i = 0; i < frames; i++) {
    const p = position + i
    out[i] = p >= 0 && p < channel.length ? channel[p] : 0
  }
}
