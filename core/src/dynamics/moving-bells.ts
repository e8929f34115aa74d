/** A bell of a bank: where it stands and how wide it is. */
export interface BellPlace {
  readonly hz: number
  readonly q: number
}

/** Two smoothings in series, so that gains move without a kink. */
const SOFT_SECONDS = 0.002
const STEP_FRAMES = 16
/** An amplitude this near to 1 changes nothing. */
const NOTHING = 1e-8

/**
 * Bells in series at fixed places (Audio EQ Cookbook, by the trapezoidal state-variable filter), whose gains move from
 * sample to sample. Those that rest at 0 dB are passed by. Without latency.
 */
export class MovingBells {
  readonly #g: Float64Array
  readonly #k: Float64Array
  /** Square roots of amplitudes: where they go, on the way, and as applied. */
  readonly #goal: Float64Array
  readonly #ahead: Float64Array
  readonly #root: Float64Array
  readonly #states: Float64Array
  /** A step, in times of one smoothing. */
  readonly #step: number

  constructor(
    readonly places: readonly BellPlace[],
    sampleRateHz: number,
    private readonly channels: number,
  ) {
    const n = places.length
    this.#g = Float64Array.from(places, ({ hz }) =>
      Math.tan(Math.PI * Math.min(0.49, hz / sampleRateHz)),
    )
    this.#k = Float64Array.from(places, ({ q }) => 1 / q)
    this.#goal = new Float64Array(n).fill(1)
    this.#ahead = new Float64Array(n).fill(1)
    this.#root = new Float64Array(n).fill(1)
    this.#states = new Float64Array(2 * channels * n)
    this.#step = STEP_FRAMES / (SOFT_SECONDS * sampleRateHz)
  }

  /** True while no bell does anything. */
  get idle(): boolean {
    for (let b = 0; b < this.#root.length; b++) {
      if (this.#root[b] !== 1 || this.#goal[b] !== 1) return false
    }
    return true
  }

  /** Where a bell's gain goes, in dB. */
  setGain(bell: number, db: number): void {
    this.#goal[bell] = db === 0 ? 1 : 10 ** (db / 40)
  }

  gainDb(bell: number): number {
    return 40 * Math.log10(this.#root[bell])
  }

  /** In place, the first `count` frames. */
  process(signals: readonly Float64Array[], count: number): void {
    for (let b = 0; b < this.#root.length; b++) {
      if (this.#root[b] === 1 && this.#goal[b] === 1) continue
      this.#run(b, signals, count)
    }
  }

  #run(b: number, signals: readonly Float64Array[], count: number): void {
    const [g, k0, goal, states] = [this.#g[b], this.#k[b], this.#goal[b], this.#states]
    const step = this.#step
    const keptAStep = Math.exp(-step)
    const g2 = 2 * g
    const at = 2 * this.channels * b
    const left = signals[0]
    const right = signals.length > 1 ? signals[1] : null
    let ahead = this.#ahead[b]
    let root = this.#root[b]
    let a1 = states[at]
    let a2 = states[at + 1]
    let b1 = right ? states[at + 2] : 0
    let b2 = right ? states[at + 3] : 0
    let k = k0 / root
    let c = 1 / (1 + g * (g + k))
    let m = k * (root * root - 1)
    for (let from = 0; from < count; from += STEP_FRAMES) {
      const to = Math.min(count, from + STEP_FRAMES)
      // Values move along straight lines within a step; their ends move smoothly.
      const isWhole = to - from === STEP_FRAMES
      const passed = isWhole ? step : step * ((to - from) / STEP_FRAMES)
      const kept = isWhole ? keptAStep : Math.exp(-passed)
      // Two lags in series as they are over time, however time is cut.
      root = goal + kept * (root - goal + passed * (ahead - goal))
      ahead = goal + kept * (ahead - goal)
      k = k0 / root
      const stepC = (1 / (1 + g * (g + k)) - c) / (to - from)
      const stepM = (k * (root * root - 1) - m) / (to - from)
      for (let i = from; i < to; i++) {
        c += stepC
        m += stepM
        // As few steps as can be from one state to the next: they are what the time goes to.
        const cg = c * g
        const x = left[i]
        const band = c * a1 + cg * (x - a2)
        a1 = 2 * band - a1
        a2 += g2 * band
        left[i] = x + m * band
        if (right === null) continue
        const y = right[i]
        const band2 = c * b1 + cg * (y - b2)
        b1 = 2 * band2 - b1
        b2 += g2 * band2
        right[i] = y + m * band2
      }
    }
    const isDone = goal === 1 && Math.abs(root - 1) < NOTHING && Math.abs(ahead - 1) < NOTHING
    const isLost = !Number.isFinite(a1 + a2 + b1 + b2)
    this.#ahead[b] = isDone ? 1 : ahead
    this.#root[b] = isDone ? 1 : root
    const keep = isDone || isLost ? 0 : 1
    states[at] = keep === 0 ? 0 : settle(a1)
    states[at + 1] = keep === 0 ? 0 : settle(a2)
    if (!right) return
    states[at + 2] = keep === 0 ? 0 : settle(b1)
    states[at + 3] = keep === 0 ? 0 : settle(b2)
  }

  reset(): void {
    this.#goal.fill(1)
    this.#ahead.fill(1)
    this.#root.fill(1)
    this.#states.fill(0)
  }
}

/** Subnormal numbers are slow and inaudible. */
export function settle(value: number): number {
  return value < 1e-30 && value > -1e-30 ? 0 : value
}
