import { Ramp } from '../../audio'
import { Convolver, FractionalDelay } from '../../filters'
import type { TreatmentProcessor } from '../kind'
import { ALIGN_BASE_FRAMES, type AlignDesign, type AlignParams, earliness } from './params'

/** Runs a fractional delay, a turn of phase and a polarity over one or two channels. */
export class AlignProcessor implements TreatmentProcessor<AlignParams, AlignDesign> {
  #delays: FractionalDelay[] = []
  #turns: Convolver[] | null = null
  readonly #sign = new Ramp(1)
  #early = ALIGN_BASE_FRAMES
  #delayFrames = Number.NaN
  #turnDeg = 0
  #started = false

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
  ) {}

  get latency(): number {
    return this.#early + this.#turnLatency
  }

  get idle(): boolean {
    return false
  }

  get #turnLatency(): number {
    return this.#turns ? this.#turnHalf + this.#turns[0].latency : 0
  }

  #turnHalf = 0

  fits({ delayFrames }: AlignParams, { turn }: AlignDesign): boolean {
    return earliness(delayFrames) === this.#early && (turn !== null) === (this.#turns !== null)
  }

  set({ delayFrames, polarity }: AlignParams, { turn, turnDeg }: AlignDesign): void {
    const early = earliness(delayFrames)
    if (this.#delays.length === 0 || early !== this.#early) {
      this.#early = early
      // Reading ahead by `early` and holding back by the rest leaves the shift that was asked for.
      const now = heldBack(early, delayFrames)
      this.#delays = Array.from(
        { length: this.channels },
        () => new FractionalDelay(this.sampleRateHz, MOST_HELD, now),
      )
    } else if (delayFrames !== this.#delayFrames) {
      for (const delay of this.#delays) delay.set(heldBack(early, delayFrames))
    }
    this.#delayFrames = delayFrames
    this.#setTurn(turn, turnDeg)
    if (this.#started) this.#sign.moveTo(polarity, this.sampleRateHz)
    else this.#sign.jumpTo(polarity)
  }

  #setTurn(turn: Float32Array | null, turnDeg: number): void {
    if (!turn) {
      this.dispose()
      this.#turns = null
    } else if (!this.#turns) {
      this.#turnHalf = (turn.length - 1) / 2
      this.#turns = Array.from({ length: this.channels }, () => new Convolver(turn))
    } else if (turnDeg !== this.#turnDeg) {
      for (const convolver of this.#turns) convolver.set(turn)
    }
    this.#turnDeg = turnDeg
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    for (let c = 0; c < channels.length; c++) {
      this.#delays[c].process(channels[c], frames)
      this.#turns?.[c].process(channels[c], 0, frames)
    }
    if (this.#sign.settled && this.#sign.value === 1) return
    for (let i = 0; i < frames; i++) {
      const sign = this.#sign.next()
      for (let c = 0; c < channels.length; c++) channels[c][i] *= sign
    }
  }

  reset(): void {
    for (const delay of this.#delays) delay.reset()
    for (const turn of this.#turns ?? []) turn.reset()
    this.#sign.jumpTo(this.#sign.target)
    this.#started = false
  }

  dispose(): void {
    for (const turn of this.#turns ?? []) turn.dispose()
  }
}

/** The longest a sound is held back: the latest shift, or the rest of a step of earliness. */
const MOST_HELD = 49_024

/** What is left to delay when the sound is read `early` frames ahead; never below zero, by rounding either. */
function heldBack(early: number, delayFrames: number): number {
  return Math.max(0, early - ALIGN_BASE_FRAMES + delayFrames)
}
