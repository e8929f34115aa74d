import { seededRandom } from '../audio'

/** Sounds that tests make: a voice whose pitch and formants glide, a drum, a pad of many strings. */
const RATE = 48000

/** Sum of signals with gains. */
export function mixed(...parts: readonly (readonly [Float32Array, number])[]): Float32Array {
  const out = new Float32Array(Math.max(...parts.map(([s]) => s.length)))
  for (const [signal, gain] of parts)
    for (let i = 0; i < signal.length; i++) out[i] += gain * signal[i]
  return out
}

/** A two-pole resonator of unit gain at its centre. */
class Formant {
  #y1 = 0
  #y2 = 0
  #a1 = 0
  #a2 = 0
  #gain = 0

  tune(hz: number, bandwidthHz: number): void {
    const r = Math.exp((-Math.PI * bandwidthHz) / RATE)
    const w = (2 * Math.PI * hz) / RATE
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

/** Ranges in which the formants of speech move, in Hz, and their gains. */
const FORMANTS = [
  [280, 800, 1],
  [750, 2300, 0.85],
  [2100, 3000, 0.75],
  [3000, 4200, 0.6],
  [3800, 5200, 0.45],
] as const

/** Speech-like: pitch glides from `low` to `high` Hz, formants move all the time, with breath. */
export function glidingVoice(
  seed: number,
  seconds: number,
  low: number,
  high: number,
  breath = 0.15,
): Float32Array {
  const random = seededRandom(seed)
  const out = new Float32Array(RATE * seconds)
  const formants = FORMANTS.map(() => new Formant())
  const goals = FORMANTS.map(([a, b]) => a + (b - a) * random())
  const now = [...goals]
  let [hz, goalHz, phase, source, level, goalLevel, next] = [low, low, 0, 0, 0, 1, 0]
  for (let i = 0; i < out.length; i++) {
    if (i >= next) {
      next = i + RATE * (0.08 + 0.25 * random())
      FORMANTS.forEach(([a, b], f) => {
        goals[f] = a + (b - a) * random()
      })
      goalHz = low * (high / low) ** random()
      goalLevel = random() < 0.2 ? 0 : 0.4 + 0.6 * random()
    }
    if (i % 64 === 0) {
      formants.forEach((formant, f) => {
        now[f] += (goals[f] - now[f]) * 0.02
        formant.tune(now[f], 70 + 0.07 * now[f])
      })
    }
    hz += (goalHz - hz) * 0.0002
    level += (goalLevel - level) * 0.001
    phase = (phase + hz / RATE) % 1
    source = 0.75 * source + 0.25 * (2 * phase - 1)
    const drive = (source + (random() - 0.5) * breath) * level
    let sum = 0
    formants.forEach((formant, f) => {
      sum += FORMANTS[f][2] * formant.next(drive)
    })
    out[i] = sum
  }
  return out
}

/** Strokes of a low membrane with a noisy slap, at uneven distances and strengths. */
export function drumKit(seed: number, seconds: number): Float32Array {
  const random = seededRandom(seed)
  const out = new Float32Array(RATE * seconds)
  for (let at = 0; at < out.length; at += Math.round(RATE * (0.18 + 0.25 * random()))) {
    const strength = 0.4 + 0.6 * random()
    const hz = 70 + 60 * random()
    for (let i = 0; i < 0.5 * RATE && at + i < out.length; i++) {
      const t = i / RATE
      const body = Math.exp(-9 * t) * Math.sin(2 * Math.PI * hz * t * (1 + 0.2 * Math.exp(-30 * t)))
      const slap = (random() - 0.5) * Math.exp(-25 * t)
      out[at + i] += strength * (0.5 * body + 0.6 * slap)
    }
  }
  return out
}

/** Chords of many slightly detuned saws that change every two seconds, with a breath of noise. */
export function ensemblePad(seed: number, seconds: number): Float32Array {
  const random = seededRandom(seed)
  const out = new Float32Array(RATE * seconds)
  const length = Math.round(2.4 * RATE)
  for (let at = 0; at < out.length; at += 2 * RATE) {
    const root = 45 + Math.floor(12 * random())
    for (const interval of [0, 3, 7, 10, 14]) {
      for (let v = 0; v < 4; v++) {
        const step = (440 * 2 ** ((root + interval - 69 + 0.3 * (random() - 0.5)) / 12)) / RATE
        let phase = random()
        for (let i = 0; i < length && at + i < out.length; i++) {
          const swell = Math.min(1, i / (0.4 * RATE)) * Math.min(1, (length - i) / (0.4 * RATE))
          phase += step * (1 + 0.002 * Math.sin((i / RATE) * (2 + v)))
          if (phase >= 1) phase -= 1
          out[at + i] += 0.02 * swell * (2 * phase - 1)
        }
      }
    }
  }
  return out.map((v) => v + 0.002 * (random() - 0.5))
}
