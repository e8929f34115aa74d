import { GainSmoother, settle, staticGainDb, UsualLevel } from '../../dynamics'
import { FOLLOW_KNEE_DB, type FollowBand, REGION_QS } from './params'

/** Frames from one decision about a gain to the next; it moves from sample to sample. */
export const CONTROL_FRAMES = 32
const FASTEST_DETECTOR_SECONDS = 0.003
/** A detector's time is no shorter than this part of its frequency's period. */
const DETECTOR_PERIODS = 0.6
const SILENT_POWER = 1e-12
/** Two smoothings in series from sample to sample, so that a move starts and ends at rest; no attack is faster. */
const SOFT_SECONDS = 0.002
const FASTEST_MS = 0.3
/** Two band-passes of this part of a Q are together as wide as one of it. */
const TWICE_Q = 0.644
/** An amplitude this near to 1 changes nothing: what rests passes bit by bit. */
const NOTHING = 1e-8
const BUTTERWORTH_K = Math.SQRT2
const HIGHEST_OF_RATE = 0.49

/** Room for a stretch: what moves, and what a filter multiplies by. */
const room = () => new Float64Array(CONTROL_FRAMES)
const way = { root: room(), g: room(), k: room() }
const by = { g: room(), c: room(), input: room(), band: room(), low: room() }

const REGION_K = REGION_QS.map((q) => 1 / q)

/** A second-order state-variable filter with trapezoidal integrators: values and states. */
interface Svf {
  g: number
  k: number
  s1: number
  s2: number
}

const svf = (): Svf => ({ g: 0.1, k: 1, s1: 0, s2: 0 })

/** One band while it runs: what it listens to, how far it is drawn, and its filter. */
export class RunningBand {
  /** It fades to nothing and is then dropped. */
  leaving = false
  #settings: FollowBand
  readonly #first = svf()
  readonly #second = svf()
  readonly #smoother = new GainSmoother()
  readonly #usual: UsualLevel
  #power = 0
  #powerShare = 0
  readonly #softShare: number
  /** Square root of the band's amplitude: where it goes, on the way there, and as it is applied. */
  #goal = 1
  #ahead = 1
  #root = 1
  /** tan(π f / fs), and 1 / Q: they move to what is set. */
  #g: number
  #k: number
  /** Filters in series: two where the band is a region. */
  readonly #stages: number
  /** Two states of each of the band's filters for each channel. */
  readonly #states: Float64Array

  /** @param channels that its filter runs over. */
  constructor(
    settings: FollowBand,
    private readonly sampleRateHz: number,
    channels: number,
  ) {
    this.#settings = settings
    this.#usual = new UsualLevel(CONTROL_FRAMES / sampleRateHz)
    this.#softShare = 1 - Math.exp(-1 / (SOFT_SECONDS * sampleRateHz))
    this.#stages = isRegion(settings.type) ? 2 : 1
    this.#states = new Float64Array(2 * channels * this.#stages)
    this.#g = this.#warped(settings.hz)
    this.#k = 1 / settings.q
    this.set(settings)
  }

  #warped(hz: number): number {
    return Math.tan(Math.PI * Math.min(HIGHEST_OF_RATE, hz / this.sampleRateHz))
  }

  /** Whether another one's settings can be taken over. */
  fits({ id, type, channel, listens }: FollowBand): boolean {
    const own = this.#settings
    return (
      !this.leaving &&
      id === own.id &&
      type === own.type &&
      channel === own.channel &&
      listens.to === own.listens.to
    )
  }

  set(settings: FollowBand): void {
    this.#settings = settings
    this.#setDetector(settings)
    // Both smoothings together take the time that is set.
    const less = (ms: number) => Math.max(FASTEST_MS, ms - 2000 * SOFT_SECONDS)
    const { attackMs, holdMs, releaseMs } = settings
    const times = { attackMs: less(attackMs), holdMs, releaseMs: less(releaseMs) }
    this.#smoother.set(times, CONTROL_FRAMES / this.sampleRateHz)
  }

  /** Filters through which it listens: two band-passes, what lies below or above its corner, or a range. */
  #setDetector({ type, hz, q, listens }: FollowBand): void {
    const range = listens.to === 'key-range' ? listens : null
    const [one, two] = [this.#first, this.#second]
    const isBell = !range && type === 'bell'
    one.k = isBell ? 1 / Math.max(0.3, TWICE_Q * q) : BUTTERWORTH_K
    two.k = one.k
    one.g = this.#warped(range ? range.fromHz : hz)
    two.g = range ? this.#warped(range.toHz) : one.g
    const lowest = range ? range.fromHz : isLow(type) ? Math.max(30, hz / 4) : hz / 2
    const seconds = Math.max(FASTEST_DETECTOR_SECONDS, DETECTOR_PERIODS / lowest)
    this.#powerShare = 1 - Math.exp(-1 / (seconds * this.sampleRateHz))
  }

  get channel(): FollowBand['channel'] {
    return this.#settings.channel
  }

  get listensToItself(): boolean {
    return this.#settings.listens.to === 'itself'
  }

  /** In dB, as it is applied. */
  get gainDb(): number {
    return 40 * Math.log10(this.#root)
  }

  /** Nothing is done to the sound. */
  get idle(): boolean {
    return this.#root === 1 && this.#goal === 1
  }

  /** Hears a stretch of what it listens to. */
  listen(signal: ArrayLike<number>, from: number, count: number, gain: number): void {
    const { type, listens } = this.#settings
    const isRange = listens.to === 'key-range'
    const isBell = !isRange && type === 'bell'
    // Weights of input, band and low output of either filter.
    const isHigh = isRange || !isLow(type)
    const [one, two] = [this.#first, this.#second]
    const [g1, k1, g2, k2] = [one.g, one.k, two.g, two.k]
    const c1 = 1 / (1 + g1 * (g1 + k1))
    const c2 = 1 / (1 + g2 * (g2 + k2))
    let [a1, a2, b1, b2] = [one.s1, one.s2, two.s1, two.s2]
    let power = this.#power
    const share = this.#powerShare
    for (let i = from; i < from + count; i++) {
      const x = gain * signal[i]
      let band = c1 * (a1 + g1 * (x - a2))
      let low = a2 + g1 * band
      a1 = 2 * band - a1
      a2 = 2 * low - a2
      const y = isBell ? k1 * band : isHigh ? x - k1 * band - low : low
      band = c2 * (b1 + g2 * (y - b2))
      low = b2 + g2 * band
      b1 = 2 * band - b1
      b2 = 2 * low - b2
      // A shelf listens through one filter; a range ends with what lies below its upper edge.
      const heard = isBell ? k2 * band : isRange ? low : y
      power += share * (heard * heard - power)
    }
    if (!Number.isFinite(power + a1 + a2 + b1 + b2)) {
      this.#deafen()
      return
    }
    this.#power = power
    one.s1 = settle(a1)
    one.s2 = settle(a2)
    two.s1 = settle(b1)
    two.s2 = settle(b2)
  }

  #deafen(): void {
    this.#power = 0
    Object.assign(this.#first, { s1: 0, s2: 0 })
    Object.assign(this.#second, { s1: 0, s2: 0 })
  }

  /** Draws the gain for the next stretch, after {@link CONTROL_FRAMES} were heard. */
  decide(): void {
    const { threshold, ratio, rangeDb, on } = this.#settings
    const levelDb = 10 * Math.log10(this.#power + SILENT_POWER)
    const usual = this.#usual.next(levelDb)
    const isRelative = threshold.against === 'relative'
    const thresholdDb = isRelative ? (usual ?? 0) + threshold.db : threshold.db
    const isOn = on && !this.leaving && !(isRelative && usual === null)
    const curve = { thresholdDb, ratio, kneeDb: FOLLOW_KNEE_DB, rangeDb }
    this.#draw(isOn ? staticGainDb(levelDb, curve) : 0)
  }

  /** Without anything to listen to it comes to rest. */
  rest(): void {
    this.#power = 0
    this.#draw(0)
  }

  #draw(goalDb: number): void {
    this.#goal = 10 ** (this.#smoother.next(goalDb) / 40)
  }

  /** Filters a stretch in place: the bell or shelf of the Audio EQ Cookbook, its gain moving from sample to sample. */
  run(channels: readonly Float64Array[], count: number): void {
    const { hz, q } = this.#settings
    const wantedG = this.#warped(hz)
    const stages = this.#stages
    // The width of a region is that of its two filters together.
    const wantedK = stages === 1 ? 1 / q : 1
    if (this.idle) {
      this.#g = wantedG
      this.#k = wantedK
      return
    }
    for (let from = 0; from < count; from += CONTROL_FRAMES) {
      const length = Math.min(CONTROL_FRAMES, count - from)
      this.#move(wantedG, wantedK, length)
      for (let stage = 0; stage < stages; stage++) {
        this.#takeCoefficients(stages === 1 ? 1 : REGION_K[stage], length)
        channels.forEach((signal, c) => {
          this.#filter(signal, from, length, 2 * (c * stages + stage))
        })
      }
    }
    const isMoving = Math.abs(this.#root - 1) > NOTHING || Math.abs(this.#ahead - 1) > NOTHING
    if (this.#goal !== 1 || isMoving) return
    // Nothing is done any more: exactly nothing from here on.
    this.#ahead = 1
    this.#root = 1
    this.#states.fill(0)
  }

  /** Gain, frequency and width on their way, frame by frame. */
  #move(wantedG: number, wantedK: number, count: number): void {
    const share = this.#softShare
    const goal = this.#goal
    let [ahead, root, g, k] = [this.#ahead, this.#root, this.#g, this.#k]
    for (let i = 0; i < count; i++) {
      ahead += share * (goal - ahead)
      root += share * (ahead - root)
      g += MOVE_SHARE * (wantedG - g)
      k += MOVE_SHARE * (wantedK - k)
      way.root[i] = root
      way.g[i] = g
      way.k[i] = k
    }
    this.#ahead = ahead
    this.#root = root
    this.#g = g
    this.#k = k
  }

  /** What the filter of a stage multiplies by, frame by frame. @param damping of the stage, 1 where it is the only one. */
  #takeCoefficients(damping: number, count: number): void {
    const { type } = this.#settings
    const isBell = type === 'bell'
    const isLowType = isLow(type)
    const isAlone = this.#stages === 1
    for (let i = 0; i < count; i++) {
      const root = way.root[i]
      let g = way.g[i]
      let k = damping * way.k[i]
      if (isBell) {
        k = way.k[i] / root
        by.input[i] = 1
        by.band[i] = k * (root * root - 1)
        by.low[i] = 0
      } else {
        const part = isAlone ? root : Math.sqrt(root)
        const steep = Math.sqrt(part)
        g = isLowType ? g / steep : g * steep
        by.input[i] = isLowType ? 1 : part * part
        by.band[i] = k * (isLowType ? part - 1 : (1 - part) * part)
        by.low[i] = isLowType ? part * part - 1 : 1 - part * part
      }
      by.g[i] = g
      by.c[i] = 1 / (1 + g * (g + k))
    }
  }

  /** Runs one filter over one channel in place. @param at where its states stand. */
  #filter(signal: Float64Array, from: number, count: number, at: number): void {
    const { g: gs, c: cs, input, band: bands, low: lows } = by
    let s1 = this.#states[at]
    let s2 = this.#states[at + 1]
    for (let i = 0; i < count; i++) {
      const x = signal[from + i]
      const [g, c] = [gs[i], cs[i]]
      // As few steps as can be from one state to the next: they are what the time goes to.
      const band = c * s1 + c * g * (x - s2)
      const moved = g * band
      s1 = 2 * band - s1
      signal[from + i] = input[i] * x + bands[i] * band + lows[i] * (s2 + moved)
      s2 += 2 * moved
    }
    this.#states[at] = settle(s1)
    this.#states[at + 1] = settle(s2)
  }

  reset(): void {
    this.#deafen()
    this.#smoother.reset()
    this.#usual.reset()
    this.#goal = 1
    this.#ahead = 1
    this.#root = 1
    this.#states.fill(0)
  }
}

const isRegion = (type: FollowBand['type']) => type === 'low-cut' || type === 'high-cut'
const isLow = (type: FollowBand['type']) => type === 'low-shelf' || type === 'low-cut'

/** Share of its way that a frequency or width that is set anew goes in a sample: 30 ms at 48 kHz. */
const MOVE_SHARE = 1 / 1440
