/** How often the machine was too late to go on with the sound, and how much was lost by it. */
export interface Lateness {
  readonly gaps: number
  readonly seconds: number
  /** How far ahead the sound is prepared since then, in seconds; null for as little as the browser can. */
  readonly aheadSeconds: number | null
}

export const NEVER_LATE: Lateness = { gaps: 0, seconds: 0, aheadSeconds: null }

/** Steps by which more is prepared ahead, each after so many gaps. */
export const AHEAD_STEPS = [null, 0.1, 0.25] as const
export const GAPS_PER_STEP = 3

/** Clocks are read at slightly different moments: what they differ by beyond this is a gap. */
const LEAST_GAP_SECONDS = 0.02

/** No two clocks go quite alike: so much between two readings is no gap. */
const DRIFT_SECONDS = 0.0005

/**
 * Finds gaps by two clocks: the audio clock stands still while the audio thread is late, the other goes on. To be
 * told both every so often while sound plays.
 */
export class GapFinder {
  #lag: number | null = null

  /** @param jitterSeconds by which the audio clock may jump without a gap: it moves in buffers. */
  constructor(private readonly jitterSeconds: number) {}

  /** How much was lost since the last time, in seconds; 0 when nothing was. */
  note(audioSeconds: number, wallSeconds: number): number {
    const lag = wallSeconds - audioSeconds
    const before = this.#lag
    if (before === null || lag < before) {
      this.#lag = lag
      return 0
    }
    const lost = lag - before
    if (lost < Math.max(LEAST_GAP_SECONDS, 1.5 * this.jitterSeconds)) {
      this.#lag = before + Math.min(lost, DRIFT_SECONDS)
      return 0
    }
    this.#lag = lag
    return lost
  }

  /** Sound was stopped and begins again: what was between is no gap. */
  pause(): void {
    this.#lag = null
  }
}
