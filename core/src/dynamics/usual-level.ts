/** A level's usual height, which a relative threshold goes by. */
export class UsualLevel {
  /** In dB; null before anything sounded. */
  value: number | null = null
  readonly #share: number

  /** @param stepSeconds time from one level to the next. */
  constructor(stepSeconds: number) {
    this.#share = 1 - Math.exp(-stepSeconds / USUAL_SECONDS)
  }

  /** Takes the next level; pauses do not count. */
  next(levelDb: number): number | null {
    if (levelDb < SILENT_DB) return this.value
    if (this.value === null) this.value = levelDb
    else if (levelDb > this.value - PAUSE_DB) this.value += this.#share * (levelDb - this.value)
    // A part that stays softer than a pause becomes the usual one, only later.
    else this.value -= this.#share * PAUSE_SHARE * PAUSE_DB
    return this.value
  }

  reset(): void {
    this.value = null
  }
}

/** Long enough for a phrase, short enough that a quiet verse has a level of its own. */
const USUAL_SECONDS = 3
const SILENT_DB = -75
const PAUSE_DB = 18
const PAUSE_SHARE = 0.25
