import { smoothStep } from '../audio'
import type { MixPlan } from './mix-plan'
import { type Addend, MAX_BLOCK_FRAMES, type Mixer, type MixTaps, type ReadAudio } from './mixer'
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
  /** A plan that changes latencies: it waits until the sound has faded out. */
  #pending: MixPlan | null = null
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
    if (this.#gate.value === 0) this.#startAfresh()
    if (!this.#isExpected) this.#gate.moveTo(1, this.rateHz)
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

  /** Takes over a plan; one that changes a latency fades the sound out, and in again, for a moment. */
  setPlan(plan: MixPlan): void {
    if (this.sounding && !this.mixer.keepsLatency(plan)) {
      this.#pending = plan
      this.#gate.moveTo(0, this.rateHz)
      return
    }
    this.mixer.set(plan)
    this.#pending = null
    // A fade that was for a plan which is now out of date turns round.
    if (this.#playing && this.#seekTo === null) this.#gate.moveTo(1, this.rateHz)
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
      if (this.#gate.value === 0 && this.#isExpected) this.#arrive()
    }
  }

  /** Something waits for silence: another place, or a plan that changes latencies. */
  get #isExpected(): boolean {
    return this.#seekTo !== null || this.#pending !== null
  }

  #arrive(): void {
    this.#position = this.#seekTo ?? this.#position
    this.#seekTo = null
    if (this.#pending) this.mixer.set(this.#pending)
    this.#pending = null
    this.#startAfresh()
    if (this.#playing) this.#gate.moveTo(1, this.rateHz)
  }

  #startAfresh(): void {
    this.mixer.reset()
    this.mixer.prime(this.#read)
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

  readonly #read: ReadAudio = (channel, offsetFrames, ahead, out, frames) => {
    let done = 0
    while (done < frames) {
      const at = this.#place(this.#position + ahead + done)
      const count =
        this.#loop && at < this.#loop.toFrame
          ? Math.min(frames - done, this.#loop.toFrame - at)
          : frames - done
      this.#readPart(channel, offsetFrames, at, done, count, out)
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
    channel: Float32Array,
    offsetFrames: number,
    at: number,
    into: number,
    count: number,
    out: Float32Array,
  ): void {
    readStretch(channel, at - offsetFrames, out, count, into)
    const loop = this.#loop
    if (!loop) return
    const fade = Math.min(this.#loopFade, loop.toFrame - loop.fromFrame)
    const fadeFrom = loop.toFrame - fade
    if (at >= loop.toFrame || at + count <= fadeFrom) return
    const back = loop.toFrame - loop.fromFrame
    readStretch(channel, at - offsetFrames - back, this.#ahead, count)
    for (let i = Math.max(0, fadeFrom - at); i < count; i++) {
      const share = smoothStep(Math.min(1, (at + i - fadeFrom + 1) / fade))
      out[into + i] += share * (this.#ahead[i] - out[into + i])
    }
  }
}

/** Adds to `out` the samples from `position`, less each channel's offset, times their gains. */
export function addStretches(
  addends: readonly Addend[],
  position: number,
  out: Float32Array,
  frames: number,
): void {
  const covering = addends.filter(({ channel, offsetFrames, gain }) => {
    const at = position - offsetFrames
    if (gain === 0) return false
    if (at >= 0 && at + frames <= channel.length) return true
    addOne(channel, at, gain, out, Math.max(0, -at), Math.min(frames, channel.length - at))
    return false
  })
  let k = 0
  for (; k + 4 <= covering.length; k += 4) addFour(covering, k, position, out, frames)
  for (; k < covering.length; k++) {
    const { channel, offsetFrames, gain } = covering[k]
    addOne(channel, position - offsetFrames, gain, out, 0, frames)
  }
}

function addOne(
  channel: Float32Array,
  at: number,
  gain: number,
  out: Float32Array,
  from: number,
  to: number,
): void {
  for (let i = from; i < to; i++) out[i] += gain * channel[at + i]
}

/** Four channels at a time take a third of the time that one after another does. */
function addFour(
  addends: readonly Addend[],
  k: number,
  position: number,
  out: Float32Array,
  frames: number,
): void {
  const { channel: a, offsetFrames: aOffset, gain: aGain } = addends[k]
  const { channel: b, offsetFrames: bOffset, gain: bGain } = addends[k + 1]
  const { channel: c, offsetFrames: cOffset, gain: cGain } = addends[k + 2]
  const { channel: d, offsetFrames: dOffset, gain: dGain } = addends[k + 3]
  const aAt = position - aOffset
  const bAt = position - bOffset
  const cAt = position - cOffset
  const dAt = position - dOffset
  for (let i = 0; i < frames; i++) {
    out[i] += aGain * a[aAt + i] + bGain * b[bAt + i] + cGain * c[cAt + i] + dGain * d[dAt + i]
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
