import { type Random, seededRandom } from '@sober-prism/core/audio'
import { BUTTERWORTH_Q, type EqBand, Equaliser } from '@sober-prism/core/filters'

export const RATE_HZ = 48000

/** A silent channel of some seconds. */
export function silence(seconds: number): Float32Array {
  return new Float32Array(Math.round(seconds * RATE_HZ))
}

/** A source of random numbers for one part, so that parts do not depend on each other. */
export function partRandom(seed: number, part: string): Random {
  let hash = seed >>> 0
  for (const letter of part) hash = Math.imul(hash ^ letter.charCodeAt(0), 0x01000193) >>> 0
  return seededRandom(hash)
}

/** Adds `source` times `gain` into `target` from frame `at` on. */
export function addInto(target: Float32Array, source: Float32Array, gain = 1, at = 0): void {
  const end = Math.min(source.length, target.length - at)
  for (let i = Math.max(0, -at); i < end; i++) target[at + i] += source[i] * gain
}

/** Scales channels together to a peak, in dBFS. */
export function toPeak(channels: readonly Float32Array[], dbfs: number): void {
  let peak = 1e-12
  for (const channel of channels) {
    for (let i = 0; i < channel.length; i++) {
      const a = Math.abs(channel[i])
      if (a > peak) peak = a
    }
  }
  const gain = 10 ** (dbfs / 20) / peak
  for (const channel of channels) for (let i = 0; i < channel.length; i++) channel[i] *= gain
}

/** A band for shaping sounds; unnamed values are the usual ones. */
export function band(type: EqBand['type'], hz: number, rest: Partial<EqBand> = {}): EqBand {
  return { type, hz, db: 0, q: BUTTERWORTH_Q, slopeDbPerOct: 12, channel: 'stereo', ...rest }
}

/** Filters a channel in place through bands in series. */
export function shape(channel: Float32Array, ...bands: readonly EqBand[]): Float32Array {
  const equaliser = new Equaliser()
  equaliser.prepare(RATE_HZ, 1)
  equaliser.set(bands.map((b, i) => ({ id: String(i), band: b })))
  equaliser.process([channel], channel.length)
  return channel
}

/** A band-limited sawtooth's next value, -1 to 1, by the two-point polynomial step correction. */
export function sawValue(phase: number, step: number): number {
  let value = 2 * phase - 1
  if (phase < step) {
    const t = phase / step
    value -= t + t - t * t - 1
  } else if (phase > 1 - step) {
    const t = (phase - 1) / step
    value -= t * t + t + t + 1
  }
  return value
}

/** Frequency of a MIDI note number. */
export function noteHz(note: number): number {
  return 440 * 2 ** ((note - 69) / 12)
}

/** A two-pole resonator that can be moved while it runs; unity gain at its centre. */
export class Resonator {
  #y1 = 0
  #y2 = 0
  #a1 = 0
  #a2 = 0
  #gain = 0

  tune(hz: number, bandwidthHz: number): void {
    const r = Math.exp((-Math.PI * bandwidthHz) / RATE_HZ)
    const w = (2 * Math.PI * hz) / RATE_HZ
    this.#a1 = 2 * r * Math.cos(w)
    this.#a2 = -r * r
    this.#gain = (1 - r) * Math.sqrt(1 - 2 * r * Math.cos(2 * w) + r * r)
  }

  next(x: number): number {
    const y = this.#gain * x + this.#a1 * this.#y1 + this.#a2 * this.#y2
    this.#y2 = this.#y1
    this.#y1 = y
    return y
  }
}
