import { type AudioSource, Ramp, smoothStep } from '../audio'
import { MAX_BLOCK_FRAMES, type MixTaps, type ReadAudio } from './mixer'
import type { MixPlan } from './plan'
import type { Renditions } from './renditions'

/** A stretch that repeats, in frames. */
export interface Loop {
  readonly fromFrame: number
  readonly toFrame: number
}

const FADE_SECONDS = 0.008
const LOOP_FADE_SECONDS = 0.02
/** A multiple of all steps in which treatments look at sound. */
const GRID_FRAMES = 512

/**
 * Plays renditions along the time line: play, pause, seek and loop without clicks. Pausing and seeking fade
 * for 8 ms; a loop's end is crossfaded with what leads up to its beginning. At the end of the piece it goes to the
 * loop's beginning, or stops; started there, it begins at the beginning. After a seek it waits until the audio there
 * is at hand.
 */
export class Transport {
  readonly #gate = new Ramp(0, FADE_SECONDS)
  #position = 0
  #loop: Loop | null = null
  /** Where the piece ends, in frames; null where it does not. */
  #end: number | null = null
  #playing = false
  #seekTo: number | null = null
  /** Plans that change ways or latencies: they wait until the sound has faded out. */
  readonly #pending = new Map<string, MixPlan>()
  /** The sound is to begin as soon as its audio is at hand. */
  #waiting = false
  #missed = 0
  /** While a start is prepared, what lies before it is silent. */
  #silentBefore = 0
  readonly #ahead = new Float32Array(MAX_BLOCK_FRAMES)
  readonly #unheard = [new Float32Array(MAX_BLOCK_FRAMES), new Float32Array(MAX_BLOCK_FRAMES)]
  readonly #loopFade: number

  /** @param isReady whether the audio from a frame of the time line on is at hand; always, by default. */
  constructor(
    private readonly renditions: Renditions,
    private readonly rateHz: number,
    private readonly isReady: (frame: number) => boolean = () => true,
  ) {
    this.#loopFade = Math.round(LOOP_FADE_SECONDS * rateHz)
  }

  /** Reads of audio that was not at hand in time, since the start. */
  get missed(): number {
    return this.#missed
  }

  get loop(): Loop | null {
    return this.#loop
  }

  get positionFrames(): number {
    return this.#seekTo ?? this.#position
  }

  /** True while sound comes out, the fade after a pause included. */
  get sounding(): boolean {
    return (this.#playing && !this.#waiting) || this.#gate.value > 0
  }

  get playing(): boolean {
    return this.#playing
  }

  play(): void {
    if (this.#playing) return
    this.#playing = true
    if (this.#isAtEnd) this.seek(this.#loop?.fromFrame ?? 0)
    if (this.#gate.value === 0) this.#waiting = true
    else if (!this.#isExpected) this.#gate.moveTo(1, this.rateHz)
  }

  pause(): void {
    this.#playing = false
    this.#waiting = false
    this.#gate.moveTo(0, this.rateHz)
  }

  seek(frame: number): void {
    this.#seekTo = Math.max(0, Math.round(frame))
    this.#gate.moveTo(0, this.rateHz)
    if (this.#gate.value === 0) this.#arrive()
  }

  /** Takes over the plan of a rendition; one that changes a latency fades the sound out, and in again, for a moment. */
  setPlan(name: string, plan: MixPlan): void {
    if (this.sounding && !this.renditions.fits(name, plan)) {
      this.#pending.set(name, plan)
      this.#gate.moveTo(0, this.rateHz)
      return
    }
    this.renditions.set(name, plan)
    this.#pending.delete(name)
    // A fade that was for a plan which is now out of date turns round.
    if (this.#playing && !this.#waiting && !this.#isExpected) this.#gate.moveTo(1, this.rateHz)
  }

  dropPlan(name: string): void {
    this.#pending.delete(name)
    this.renditions.drop(name)
  }

  /** @param end where the piece ends; null where it does not. */
  setLoop(loop: Loop | null, end: number | null = null): void {
    this.#loop = loop
    this.#end = end
  }

  get #isAtEnd(): boolean {
    return this.#end !== null && this.positionFrames >= this.#end
  }

  /** The next `frames` of sound, silence while paused. Starting from silence, the fade-in is heard. */
  process(left: Float32Array, right: Float32Array, frames: number, taps?: MixTaps): void {
    let at = 0
    if (this.#waiting && this.isReady(this.positionFrames)) this.#begin()
    while (at < frames) {
      if (!this.sounding) {
        left.fill(0, at, frames)
        right.fill(0, at, frames)
        this.renditions.rest()
        return
      }
      const count = this.#untilTurn(frames - at)
      const l = at === 0 && count === frames ? left : left.subarray(at, at + count)
      const r = at === 0 && count === frames ? right : right.subarray(at, at + count)
      this.renditions.process(l, r, count, this.#read, taps)
      this.#applyGate(l, r, count)
      this.#position += count
      at += count
      if (this.#loop && this.#position === this.#loop.toFrame) this.#position = this.#loop.fromFrame
      if (this.#playing && this.#isAtEnd) this.#turnAtEnd()
      if (this.#gate.value === 0 && this.#isExpected) this.#arrive()
    }
  }

  /** Something waits for silence: another place, or a plan that changes latencies. */
  get #isExpected(): boolean {
    return this.#seekTo !== null || this.#pending.size > 0
  }

  #arrive(): void {
    const moved = this.#seekTo !== null
    this.#position = this.#seekTo ?? this.#position
    this.#seekTo = null
    for (const [name, plan] of this.#pending) this.renditions.set(name, plan)
    this.#pending.clear()
    if (!this.#playing) return
    if (moved && !this.isReady(this.#position)) this.#waiting = true
    else this.#begin()
  }

  #begin(): void {
    this.#waiting = false
    if (this.#seekTo !== null) this.#position = this.#seekTo
    this.#seekTo = null
    for (const [name, plan] of this.#pending) this.renditions.set(name, plan)
    this.#pending.clear()
    this.renditions.reset()
    this.#runIn()
    this.#gate.moveTo(1, this.rateHz)
  }

  /**
   * Primes, from a place on the grid in which treatments look at the sound, with silence up to the place where it
   * begins: so that whatever moment one starts at, they look at the same stretches.
   */
  #runIn(): void {
    const start = this.#position
    const loop = this.#loop
    // Behind a loop's end nothing leads back to its beginning, though the grid may lie before it.
    if (loop && start >= loop.toFrame) this.#loop = null
    this.#silentBefore = start
    this.#position = start - (start % GRID_FRAMES)
    this.renditions.prime(this.#read)
    while (this.#position < start) {
      const count = Math.min(MAX_BLOCK_FRAMES, start - this.#position)
      this.renditions.process(this.#unheard[0], this.#unheard[1], count, this.#read)
      this.#position += count
    }
    this.#silentBefore = 0
    this.#loop = loop
  }

  /** Nothing comes behind the end: back to where the loop begins, or there it stays. */
  #turnAtEnd(): void {
    if (!this.#loop) this.pause()
    this.seek(this.#loop?.fromFrame ?? this.#end ?? 0)
  }

  /** How much of a block lies before the loop's end and the piece's. */
  #untilTurn(frames: number): number {
    let count = frames
    for (const end of [this.#loop?.toFrame, this.#end]) {
      if (typeof end === 'number' && this.#position < end) {
        count = Math.min(count, end - this.#position)
      }
    }
    return count
  }

  #applyGate(left: Float32Array, right: Float32Array, frames: number): void {
    if (this.#gate.settled && this.#gate.value === 1) return
    for (let i = 0; i < frames; i++) {
      const gain = this.#gate.next()
      left[i] *= gain
      right[i] *= gain
    }
  }

  readonly #read: ReadAudio = (source, channel, offsetFrames, ahead, out, frames) => {
    let done = Math.max(0, Math.min(frames, this.#silentBefore - this.#position - ahead))
    out.fill(0, 0, done)
    while (done < frames) {
      const at = this.#place(this.#position + ahead + done)
      const count =
        this.#loop && at < this.#loop.toFrame
          ? Math.min(frames - done, this.#loop.toFrame - at)
          : frames - done
      this.#readPart(source, channel, offsetFrames, at, done, count, out)
      done += count
    }
  }

  /** Where the time line stands at a moment that may lie past the loop's end. */
  #place(frame: number): number {
    const loop = this.#loop
    if (!loop || this.#position >= loop.toFrame || frame < loop.toFrame) return frame
    return loop.fromFrame + ((frame - loop.fromFrame) % (loop.toFrame - loop.fromFrame))
  }

  /** Reads a stretch within the loop or outside it, crossfading before the loop's end. */
  #readPart(
    source: AudioSource,
    channel: number,
    offsetFrames: number,
    at: number,
    into: number,
    count: number,
    out: Float32Array,
  ): void {
    if (!source.read(channel, at - offsetFrames, out, count, into)) this.#missed++
    const loop = this.#loop
    if (!loop) return
    const fade = Math.min(this.#loopFade, loop.toFrame - loop.fromFrame)
    const fadeFrom = loop.toFrame - fade
    if (at >= loop.toFrame || at + count <= fadeFrom) return
    const back = loop.toFrame - loop.fromFrame
    if (!source.read(channel, at - offsetFrames - back, this.#ahead, count)) this.#missed++
    for (let i = Math.max(0, fadeFrom - at); i < count; i++) {
      const share = smoothStep(Math.min(1, (at + i - fadeFrom + 1) / fade))
      out[into + i] += share * (this.#ahead[i] - out[into + i])
    }
  }
}
