import { type Biquad, designBand } from '../filters'
import { GainSmoother, type StaticCurve, staticGainDb } from './gain-computer'

/** How a leveller hears and what it answers. */
export interface LevellerSettings {
  /** In dB relative to a mean square of 1: a full-scale sine reads -3.01. */
  readonly thresholdDb: number
  readonly ratio: number
  readonly kneeDb: number
  /** The most that is taken, in dB. */
  readonly atMostDb: number
  /** `both`: the mean of some hundred milliseconds rides, and what jumps out of it is caught; `fast`: that alone. */
  readonly detector: 'both' | 'fast'
  readonly attackMs: number
  readonly releaseMs: number
  /** What lies below does not count. */
  readonly lowCutHz: number
}

/** Frames from one reading of the level to the next. */
export const LEVEL_STEP = 32
/** Where both detectors work, the fast one acts on what stands this far above the slow one's threshold. */
const FAST_ABOVE_DB = 4
/** Times of the slow detector's mean and of the fast one's. */
const SLOW_SECONDS = 0.25
const FAST_SECONDS = 0.005
/** The slow gain takes this many times as long. */
const SLOWER = 8
const SILENT = 1e-12

/** The detector's low cut. */
export function lowCutSections(hz: number, sampleRateHz: number): readonly Biquad[] {
  const cut = { type: 'low-cut', hz, db: 0, q: Math.SQRT1_2, slopeDbPerOct: 12 } as const
  return designBand({ ...cut, channel: 'stereo' }, sampleRateHz)
}

/** Power of a sound behind the detector's low cut, step by step: mean over channels. */
export class LevelSteps {
  #sections: readonly Biquad[] = []
  #states: Float64Array[][] = []
  #sum = 0
  #count = 0

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
  ) {}

  /** For where designing takes no time away from sound. */
  setLowCut(hz: number): void {
    this.setSections(lowCutSections(hz, this.sampleRateHz))
  }

  /** Takes a ready-made {@link lowCutSections}; what was heard stays. */
  setSections(sections: readonly Biquad[]): void {
    this.#sections = sections
    if (this.#states.length === sections.length) return
    this.#states = sections.map(() =>
      Array.from({ length: this.channels }, () => new Float64Array(2)),
    )
  }

  /** Takes a frame. @returns the mean power of the step that it ends, else -1. */
  add(channels: readonly Float32Array[], at: number): number {
    for (let c = 0; c < this.channels; c++) {
      let y: number = channels[c][at]
      for (let s = 0; s < this.#sections.length; s++) {
        const { b0, b1, b2, a1, a2 } = this.#sections[s]
        const state = this.#states[s][c]
        const x = y
        y = b0 * x + state[0]
        state[0] = b1 * x - a1 * y + state[1] + TINY
        state[1] = b2 * x - a2 * y
      }
      this.#sum += y * y
    }
    if (++this.#count < LEVEL_STEP) return -1
    const mean = this.#sum / (LEVEL_STEP * this.channels)
    this.#sum = 0
    this.#count = 0
    return mean
  }

  reset(): void {
    for (const states of this.#states) for (const state of states) state.fill(0)
    this.#sum = 0
    this.#count = 0
  }
}

/** Keeps states away from denormal numbers. */
const TINY = 1e-30

/**
 * The gain of a leveller, from the power of one step to the next: two root-mean-square detectors, each with the soft
 * static curve and the branching smoother of Giannoulis, Massberg and Reiss 2012 (JAES 60, 399), of which the one that
 * takes more counts. On a steady tone that is the static curve.
 */
export class LevellerGain {
  #slow = 0
  #fast = 0
  readonly #slowShare: number
  readonly #fastShare: number
  readonly #slowGain = new GainSmoother()
  readonly #fastGain = new GainSmoother()
  #curve: StaticCurve = { thresholdDb: 0, ratio: 1, kneeDb: 0, rangeDb: 0 }
  #both = true

  constructor(private readonly stepSeconds: number) {
    const share = (seconds: number) => 1 - Math.exp(-stepSeconds / seconds)
    this.#slowShare = share(SLOW_SECONDS)
    this.#fastShare = share(FAST_SECONDS)
  }

  set(settings: LevellerSettings): void {
    const { thresholdDb, ratio, kneeDb, atMostDb, detector, attackMs, releaseMs } = settings
    this.#curve = { thresholdDb, ratio, kneeDb, rangeDb: -atMostDb }
    this.#both = detector === 'both'
    this.#fastGain.set({ attackMs, holdMs: 0, releaseMs }, this.stepSeconds)
    const slower = { attackMs: SLOWER * attackMs, releaseMs: SLOWER * releaseMs }
    this.#slowGain.set({ ...slower, holdMs: 0 }, this.stepSeconds)
  }

  /** @returns the gain in dB, 0 or below. */
  next(power: number): number {
    this.#slow += this.#slowShare * (power - this.#slow)
    this.#fast += this.#fastShare * (power - this.#fast)
    const above = this.#both ? FAST_ABOVE_DB : 0
    const fast = staticGainDb(toDb(this.#fast) - above, this.#curve)
    const caught = this.#fastGain.next(fast)
    if (!this.#both) return caught
    return Math.min(caught, this.#slowGain.next(staticGainDb(toDb(this.#slow), this.#curve)))
  }

  reset(): void {
    this.#slow = 0
    this.#fast = 0
    this.#slowGain.reset()
    this.#fastGain.reset()
  }
}

function toDb(power: number): number {
  return 10 * Math.log10(power + SILENT)
}

/** Power of a whole sound step by step, as the leveller hears it. */
export function levelsOf(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  lowCutHz: number,
): Float32Array {
  const meter = new LevelSteps(sampleRateHz, channels.length)
  meter.setLowCut(lowCutHz)
  const frames = channels[0].length
  const levels = new Float32Array(Math.floor(frames / LEVEL_STEP))
  let step = 0
  for (let at = 0; at < frames; at++) {
    const power = meter.add(channels, at)
    if (power >= 0) levels[step++] = power
  }
  return levels
}

/** What a leveller takes from a sound. */
export interface LevellerReading {
  /** In dB, 0 or below. */
  readonly deepestDb: number
  /** Over the steps in which something sounds. */
  readonly meanDb: number
  /** What it takes of the power of all that stands above a gate 10 dB under the mean, as loudness is measured. */
  readonly loudnessDb: number
}

/** Steps this far below the loudest count as pauses. */
const PAUSE_DB = 40

/** Power 10 dB under the mean of what is there at all: the relative gate of ITU-R BS.1770-4, on short steps. */
function gateOf(levels: Float32Array): number {
  const there = levels.filter((power) => power > 1e-7)
  return there.length > 0 ? (0.1 * there.reduce((a, b) => a + b, 0)) / there.length : 0
}

/** What settings do to the powers of {@link levelsOf}. */
export function readLeveller(
  levels: Float32Array,
  settings: LevellerSettings,
  sampleRateHz: number,
): LevellerReading {
  const gain = new LevellerGain(LEVEL_STEP / sampleRateHz)
  gain.set(settings)
  const least = levels.reduce((a, v) => Math.max(a, v), 0) * 10 ** (-PAUSE_DB / 10)
  let deepestDb = 0
  let sum = 0
  let count = 0
  const loud = gateOf(levels)
  let [before, after] = [0, 0]
  for (const power of levels) {
    const db = gain.next(power)
    deepestDb = Math.min(deepestDb, db)
    if (power > loud) {
      before += power
      after += power * 10 ** (db / 10)
    }
    if (power <= least) continue
    sum += db
    count++
  }
  return {
    deepestDb,
    meanDb: count > 0 ? sum / count : 0,
    loudnessDb: before > 0 ? 10 * Math.log10(after / before) : 0,
  }
}

const [LOWEST_DB, HIGHEST_DB] = [-80, 0]
const HALVINGS = 14

/**
 * The threshold with which the loudest moment of a sound loses just so much, in dB; null where even the lowest does
 * not take that much (silence, or a ratio that is too small).
 */
export function thresholdFor(
  levels: Float32Array,
  settings: Omit<LevellerSettings, 'thresholdDb'>,
  sampleRateHz: number,
): number | null {
  const wanted = -settings.atMostDb
  const unlimited = { ...settings, atMostDb: 60 }
  const deepest = (thresholdDb: number) =>
    readLeveller(levels, { ...unlimited, thresholdDb }, sampleRateHz).deepestDb
  if (deepest(LOWEST_DB) > wanted) return null
  let [low, high] = [LOWEST_DB, HIGHEST_DB]
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (low + high) / 2
    if (deepest(middle) < wanted) low = middle
    else high = middle
  }
  return Math.round(10 * high) / 10
}
