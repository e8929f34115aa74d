import { Ramp } from '../audio'
import { Convolver } from '../filters'
import type { PlaybackResponse } from './response'

/** How loud a playback's parts are, once it is as loud as what plays without it. */
export interface PlaybackLevels {
  /** Behind the response. */
  readonly gain: number
  /** Peaks are held at this amplitude; null holds none. */
  readonly ceiling: number | null
  readonly releaseMs: number
  readonly noiseGain: number
}

export const PLAIN_LEVELS: PlaybackLevels = {
  gain: 1,
  ceiling: null,
  releaseMs: 100,
  noiseGain: 0,
}

const ATTACK_MS = 1

/** Plays stereo sound as through another playback, in blocks of any length; nothing is made within `process`. */
export class PlaybackRun {
  readonly #first: Convolver
  readonly #second: Convolver | null
  readonly #isMiddleSide: boolean
  readonly #noise: PlaybackResponse['noise']
  readonly #rateHz: number
  #levels: PlaybackLevels
  readonly #gain: Ramp
  #noiseAt = 0
  #held = 1
  #release = 0
  readonly #attack: number

  constructor(response: PlaybackResponse, levels: PlaybackLevels, rateHz: number) {
    const [first, second] = response.kernels
    const longest = Math.max(first.length, second?.length ?? 0)
    // Of one length, so that both come out at one time.
    this.#first = new Convolver(first, longest)
    this.#second = second && new Convolver(second, longest)
    this.#isMiddleSide = response.basis === 'middle-side'
    this.#noise = response.noise
    this.#levels = levels
    this.#gain = new Ramp(levels.gain)
    this.#rateHz = rateHz
    this.#attack = Math.exp(-1000 / (ATTACK_MS * rateHz))
    this.#setRelease(levels)
  }

  #setRelease({ releaseMs }: PlaybackLevels): void {
    this.#release = Math.exp(-1000 / (releaseMs * this.#rateHz))
  }

  /** Glides to another gain; what holds peaks, and the noise, follow at once. */
  setLevels(levels: PlaybackLevels): void {
    this.#levels = levels
    this.#gain.moveTo(levels.gain, this.#rateHz)
    this.#setRelease(levels)
  }

  /** Frames by which it comes later than what goes in. */
  get latency(): number {
    return this.#first.latency
  }

  reset(): void {
    this.#first.reset()
    this.#second?.reset()
    this.#noiseAt = 0
    this.#held = 1
    this.#gain.jumpTo(this.#gain.target)
  }

  dispose(): void {
    this.#first.dispose()
    this.#second?.dispose()
  }

  /** In place. */
  process(left: Float32Array, right: Float32Array, frames: number): void {
    if (this.#isMiddleSide) {
      for (let i = 0; i < frames; i++) {
        const middle = 0.5 * (left[i] + right[i])
        right[i] = 0.5 * (left[i] - right[i])
        left[i] = middle
      }
    }
    this.#first.process(left, 0, frames)
    if (this.#second) this.#second.process(right, 0, frames)
    else right.fill(0, 0, frames)
    const { ceiling, noiseGain } = this.#levels
    for (let i = 0; i < frames; i++) {
      const gain = this.#gain.next()
      const a = gain * left[i]
      const b = gain * right[i]
      left[i] = this.#isMiddleSide ? a + b : a
      right[i] = this.#isMiddleSide ? a - b : b
    }
    if (ceiling !== null) this.#limit(left, right, frames, ceiling)
    if (this.#noise && noiseGain > 0) this.#addNoise(left, right, frames, noiseGain)
  }

  #limit(left: Float32Array, right: Float32Array, frames: number, ceiling: number): void {
    let held = this.#held
    for (let i = 0; i < frames; i++) {
      const peak = Math.max(Math.abs(left[i]), Math.abs(right[i]))
      const wanted = peak > ceiling ? ceiling / peak : 1
      held = wanted + (held - wanted) * (wanted < held ? this.#attack : this.#release)
      left[i] *= held
      right[i] *= held
    }
    this.#held = held
  }

  #addNoise(left: Float32Array, right: Float32Array, frames: number, gain: number): void {
    const noise = this.#noise
    if (!noise) return
    const a = noise[0]
    const b = noise[1]
    let at = this.#noiseAt
    for (let i = 0; i < frames; i++) {
      left[i] += gain * a[at]
      right[i] += gain * b[at]
      at = at + 1 === a.length ? 0 : at + 1
    }
    this.#noiseAt = at
  }
}
