import { designBand } from '../filters'

const STEP_SECONDS = 0.005
/** Where rooms are told by: speech and most instruments have energy here. */
const FROM_HZ = 300
const TO_HZ = 4000
/** Steps that are averaged before a fall is looked for; more of them where rooms of few echoes would hide it. */
const SMOOTH = [4, 12]
/** A fall ends where the level has risen by this much over its lowest. */
const RISE_DB = 3
/** ISO 3382-2: T20 is taken from 5 to 25 dB below the start. */
const FIT_FROM_DB = -5
/** T20; where no fall reaches so far, T10. */
const FIT_TO_DB = [-25, -15]
/** What comes this close to the highest level belongs to the time before the fall. */
const FLAT_DB = 1
/** A fall has to reach a little further than what is fitted of it. */
const BEYOND_DB = 1
const LEAST_FALL_DB = 16
const LEAST_FALLS = 3
const MANY_FALLS = 5
/** Falls of a room are alike; where the quarters of them are further apart than this, they are the instrument's own. */
const MOST_SPREAD = 1.7
/** Of few falls all have to be as near as this. */
const FEW_SPREAD = 1.2
const LEAST_STEPS = 4
/** How straight a fall has to be: squared correlation of level and time. */
const STRAIGHT = 0.9
/** Falls begin at most this far below the loudest moment. */
const FROM_LOUDEST_DB = 25

/**
 * How fast a sound dies away where it stops: a line through each free fall that occurs in it, from -5 to -25 dB (as T20
 * of ISO 3382-2; falls in music are cut off by what follows, so that its backward integral would bend), the median of
 * them. Told only where the falls are alike: those of strings that ring on are not.
 */
export class DecayMeter {
  readonly #sections
  readonly #states: Float64Array[]
  readonly #stepFrames: number
  readonly #steps: number[] = []
  #sum = 0
  #filled = 0

  constructor(sampleRateHz: number) {
    const band = { db: 0, q: Math.SQRT1_2, slopeDbPerOct: 12, channel: 'stereo' } as const
    this.#sections = [
      ...designBand({ type: 'low-cut', hz: FROM_HZ, ...band }, sampleRateHz),
      ...designBand({ type: 'high-cut', hz: TO_HZ, ...band }, sampleRateHz),
    ]
    this.#states = this.#sections.map(() => new Float64Array(2))
    this.#stepFrames = Math.round(STEP_SECONDS * sampleRateHz)
  }

  /** Takes the next piece of one or two channels, as their sum. */
  add([left, right = left]: readonly Float32Array[]): void {
    for (let i = 0; i < left.length; i++) {
      let y = 0.5 * (left[i] + right[i])
      for (let s = 0; s < this.#sections.length; s++) {
        const { b0, b1, b2, a1, a2 } = this.#sections[s]
        const state = this.#states[s]
        const x = y
        y = b0 * x + state[0]
        state[0] = b1 * x - a1 * y + state[1]
        state[1] = b2 * x - a2 * y
      }
      this.#sum += y * y
      if (++this.#filled === this.#stepFrames) {
        this.#steps.push(this.#sum / this.#filled)
        this.#sum = 0
        this.#filled = 0
      }
    }
  }

  /** Seconds to fall by 60 dB; null where the sound stops too seldom, or differently each time. */
  read(): number | null {
    for (const [smooth, toDb] of SMOOTH.flatMap((s) => FIT_TO_DB.map((db) => [s, db]))) {
      const falls = fallsOf(this.#steps, smooth)
      const times = falls
        .map((fall) => decayTime(fall, toDb))
        .filter((t) => t !== null)
        .sort((a, b) => a - b)
      if (times.length < LEAST_FALLS) continue
      const at = (share: number) => times[Math.floor(share * (times.length - 1))]
      const isMany = times.length >= MANY_FALLS
      const spread = isMany ? at(0.75) / at(0.25) : at(1) / at(0)
      if (spread <= (isMany ? MOST_SPREAD : FEW_SPREAD)) return at(0.5)
    }
    return null
  }
}

/** Stretches of steps in which the level only falls, by enough. */
function fallsOf(power: readonly number[], smooth: number): (readonly number[])[] {
  const level = power.map((_, i) => {
    const from = Math.max(0, i - smooth + 1)
    let sum = 0
    for (let k = from; k <= i; k++) sum += power[k]
    return 10 * Math.log10(sum / (i - from + 1) + 1e-20)
  })
  const loudest = level.reduce((a, v) => Math.max(a, v), -200)
  const falls: (readonly number[])[] = []
  for (let start = 0; start < level.length; ) {
    if (level[start] < loudest - FROM_LOUDEST_DB) {
      start++
      continue
    }
    let lowest = start
    let top = start
    let peak = level[start]
    let end = start + 1
    while (end < level.length && level[end] < level[lowest] + RISE_DB) {
      if (level[end] < level[lowest]) lowest = end
      peak = Math.max(peak, level[end])
      // Still on the flat before the fall.
      if (level[end] > peak - FLAT_DB) top = end
      end++
    }
    if (level[top] - level[lowest] >= LEAST_FALL_DB) falls.push(level.slice(top, lowest + 1))
    start = Math.max(lowest, start + 1)
  }
  return falls
}

/** Time to fall by 60 dB as one fall goes from -5 dB to `toDb`; null where it is not straight. */
function decayTime(levels: readonly number[], toDb: number): number | null {
  const top = levels[0]
  const from = levels.findIndex((v) => v <= top + FIT_FROM_DB)
  const end = levels.findIndex((v) => v < top + toDb)
  if ((levels.at(-1) ?? top) > top + toDb - BEYOND_DB) return null
  const fitted = levels.slice(from, end < 0 ? undefined : end)
  if (fitted.length < LEAST_STEPS) return null
  const line = fitLine(
    fitted.map((_, i) => i * STEP_SECONDS),
    fitted,
  )
  return line.slope < 0 && line.r2 >= STRAIGHT ? -60 / line.slope : null
}

function fitLine(x: readonly number[], y: readonly number[]): { slope: number; r2: number } {
  const n = x.length
  const mx = x.reduce((a, v) => a + v, 0) / n
  const my = y.reduce((a, v) => a + v, 0) / n
  let xx = 0
  let xy = 0
  let yy = 0
  for (let i = 0; i < n; i++) {
    xx += (x[i] - mx) ** 2
    xy += (x[i] - mx) * (y[i] - my)
    yy += (y[i] - my) ** 2
  }
  return { slope: xy / xx, r2: yy > 0 ? xy ** 2 / (xx * yy) : 0 }
}
