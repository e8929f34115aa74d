import { Ramp } from '../../audio'
import { LEVEL_STEP, LevellerGain, LevelSteps } from '../../dynamics'
import type { TreatmentProcessor } from '../kind'
import type { LevellerDesign, LevellerParams } from './params'

/** Runs a leveller. Gains are read every 32 frames and go from one to the next in a straight line. */
export class LevellerProcessor implements TreatmentProcessor<LevellerParams, LevellerDesign> {
  readonly latency = 0
  readonly #levels: LevelSteps
  readonly #gain: LevellerGain
  readonly #mix = new Ramp(1)
  readonly #output = new Ramp(1)
  #gainDb = 0
  /** Of the levelled sound, at this frame and per frame. */
  #factor = 1
  #slope = 0
  #started = false

  constructor(
    private readonly sampleRateHz: number,
    channels: number,
  ) {
    this.#levels = new LevelSteps(sampleRateHz, channels)
    this.#gain = new LevellerGain(LEVEL_STEP / sampleRateHz)
  }

  get idle(): boolean {
    return false
  }

  readGains(out: Float32Array): number {
    if (out.length === 0) return 0
    out[0] = this.#gainDb
    return 1
  }

  fits(): boolean {
    return true
  }

  set(params: LevellerParams, { lowCut }: LevellerDesign): void {
    this.#levels.setSections(lowCut)
    this.#gain.set(params)
    const values = [params.mix, 10 ** (params.outputDb / 20)]
    ;[this.#mix, this.#output].forEach((ramp, i) => {
      if (this.#started) ramp.moveTo(values[i], this.sampleRateHz)
      else ramp.jumpTo(values[i])
    })
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    for (let i = 0; i < frames; i++) {
      const power = this.#levels.add(channels, i)
      const mix = this.#mix.next()
      const factor = this.#output.next() * (1 + mix * (this.#factor - 1))
      this.#factor += this.#slope
      for (let c = 0; c < channels.length; c++) channels[c][i] *= factor
      if (power >= 0) this.#turnTo(power)
    }
  }

  #turnTo(power: number): void {
    // A sound that is no number must not stay in the gain for ever.
    this.#gainDb = this.#gain.next(Number.isFinite(power) ? power : 0)
    this.#slope = (10 ** (this.#gainDb / 20) - this.#factor) / LEVEL_STEP
  }

  reset(): void {
    this.#levels.reset()
    this.#gain.reset()
    this.#gainDb = 0
    this.#factor = 1
    this.#slope = 0
    this.#started = false
  }

  dispose(): void {}
}
