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

/** Sinusoids at multiples of `hz` within a band, equally strong and of random phase, with an RMS of 0.1. */
export function harmonics(
  hz: number,
  [fromHz, toHz]: readonly [number, number],
  seconds: number,
  rateHz: number,
): Float32Array {
  const random = seededRandom(hz)
  const places: number[] = []
  for (let k = Math.ceil(fromHz / hz); k * hz <= toHz; k++) places.push(k * hz)
  return sumOfSines(
    places.map((f) => ({ hz: f, amplitude: 1, phase: 2 * Math.PI * random() })),
    seconds,
    rateHz,
  )
}

/** Gaussian noise within a band and nothing outside, with an RMS of 0.1: many sinusoids that never meet again. */
export function bandNoise(
  [fromHz, toHz]: readonly [number, number],
  seconds: number,
  rateHz: number,
  seed: number,
): Float32Array {
  const random = seededRandom(seed)
  const lines: Sinusoid[] = []
  for (let hz = fromHz; hz <= toHz; hz += 1 / (1.4 * seconds)) {
    const amplitude = Math.sqrt(-2 * Math.log(1 - random()))
    lines.push({ hz, amplitude, phase: 2 * Math.PI * random() })
  }
  return sumOfSines(lines, seconds, rateHz)
}

interface Sinusoid {
  readonly hz: number
  readonly amplitude: number
  readonly phase: number
}

/** Each turned on by multiplication, which is fast enough for thousands. */
function sumOfSines(lines: readonly Sinusoid[], seconds: number, rateHz: number): Float32Array {
  const sum = new Float64Array(Math.round(seconds * rateHz))
  for (const { hz, amplitude, phase } of lines) {
    const [stepRe, stepIm] = [
      Math.cos((2 * Math.PI * hz) / rateHz),
      Math.sin((2 * Math.PI * hz) / rateHz),
    ]
    let [re, im] = [amplitude * Math.cos(phase), amplitude * Math.sin(phase)]
    for (let i = 0; i < sum.length; i++) {
      sum[i] += re
      const next = re * stepRe - im * stepIm
      im = im * stepRe + re * stepIm
      re = next
    }
  }
  const scale = 0.1 / rms(sum)
  return Float32Array.from(sum, (v) => v * scale)
}
