import { type Clip, dbToAmplitude, makeClip, seededRandom } from '../audio'

/** A sine as a mono channel; `amplitude` is its peak. */
export function sine(hz: number, seconds: number, rateHz: number, amplitude = 1, phaseDeg = 0) {
  const phase = (phaseDeg * Math.PI) / 180
  return Float32Array.from(
    { length: Math.round(seconds * rateHz) },
    (_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / rateHz + phase),
  )
}

/** White noise, uniform in ±`amplitude`. */
export function whiteNoise(frames: number, seed: number, amplitude = 1): Float32Array {
  const random = seededRandom(seed)
  return Float32Array.from({ length: frames }, () => amplitude * (2 * random() - 1))
}

/** White noise with a normal distribution of the given RMS. */
export function gaussianNoise(frames: number, seed: number, rms: number): Float32Array {
  const random = seededRandom(seed)
  return Float32Array.from(
    { length: frames },
    () => rms * Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()),
  )
}

/** A stereo clip of 1 kHz tones one after another, each `[dBFS peak, seconds]`, in both channels. */
export function toneSequence(steps: readonly (readonly [number, number])[], rateHz = 48000): Clip {
  const total = steps.reduce((sum, [, seconds]) => sum + Math.round(seconds * rateHz), 0)
  const channel = new Float32Array(total)
  let at = 0
  for (const [db, seconds] of steps) {
    const amplitude = dbToAmplitude(db)
    const frames = Math.round(seconds * rateHz)
    for (let i = 0; i < frames; i++, at++) {
      channel[at] = amplitude * Math.sin((2 * Math.PI * 1000 * at) / rateHz)
    }
  }
  return makeClip(rateHz, [channel, channel])
}

/** RMS of a stretch. */
export function rms(signal: ArrayLike<number>, from = 0, to = signal.length): number {
  let sum = 0
  for (let i = from; i < to; i++) sum += signal[i] * signal[i]
  return Math.sqrt(sum / Math.max(1, to - from))
}
