/** The static curve from level to gain. */
export interface StaticCurve {
  readonly thresholdDb: number
  /** Level above the threshold for each decibel of it that is let through; null for straight to the range. */
  readonly ratio: number | null
  /** Width of the soft knee around the threshold. */
  readonly kneeDb: number
  /** The most that is done: below zero down, above it up. */
  readonly rangeDb: number
}

/**
 * What a level is answered with, in dB: the soft-knee curve of Giannoulis, Massberg and Reiss 2012 (JAES 60, 399,
 * eq. 4), held within the range; with a range above zero the same the other way. Straight to the range, the knee leads
 * from nothing to all of it.
 */
export function staticGainDb(
  levelDb: number,
  { thresholdDb, ratio, kneeDb, rangeDb }: StaticCurve,
): number {
  const over = levelDb - thresholdDb
  if (ratio === null) {
    if (2 * over <= -kneeDb) return 0
    if (2 * over >= kneeDb) return rangeDb
    return (rangeDb * (over + kneeDb / 2)) / kneeDb
  }
  const slope = 1 - 1 / ratio
  let depth = slope * over
  if (2 * over < -kneeDb) depth = 0
  else if (2 * Math.abs(over) <= kneeDb && kneeDb > 0) {
    depth = (slope * (over + kneeDb / 2) ** 2) / (2 * kneeDb)
  }
  return Math.sign(rangeDb) * Math.min(Math.abs(rangeDb), Math.max(0, depth))
}

/** Times with which a gain follows what is asked of it. */
export interface FollowTimes {
  readonly attackMs: number
  readonly holdMs: number
  readonly releaseMs: number
}

/**
 * Smooths a gain in dB, step by step: the branching one-pole smoother of the same paper (section 2.3.2), attack where
 * the gain goes away from 0, release where it comes back, after a hold. A time is that in which a step is followed to
 * 63 %.
 */
export class GainSmoother {
  /** In dB. */
  value = 0
  #attack = 0
  #release = 0
  #holdSteps = 0
  #held = 0

  set({ attackMs, holdMs, releaseMs }: FollowTimes, stepSeconds: number): void {
    const share = (ms: number) => 1 - Math.exp((-1000 * stepSeconds) / Math.max(ms, 1e-3))
    this.#attack = share(attackMs)
    this.#release = share(releaseMs)
    this.#holdSteps = Math.round(holdMs / (1000 * stepSeconds))
  }

  /** One step towards a goal. */
  next(goalDb: number): number {
    const isAway = Math.abs(goalDb) > Math.abs(this.value)
    if (isAway) this.#held = this.#holdSteps
    else if (this.#held > 0) {
      this.#held--
      return this.value
    }
    this.value += (isAway ? this.#attack : this.#release) * (goalDb - this.value)
    if (goalDb === 0 && Math.abs(this.value) < SETTLED_DB) this.value = 0
    return this.value
  }

  reset(): void {
    this.value = 0
    this.#held = 0
  }
}

/** Less than this is nothing: what rests passes bit by bit. */
const SETTLED_DB = 0.001
