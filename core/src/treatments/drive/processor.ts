import { Saturator } from '../../dynamics'
import type { NoDesign, TreatmentProcessor } from '../kind'
import type { DriveParams } from './params'

/** Runs smooth saturation. */
export class DriveProcessor implements TreatmentProcessor<DriveParams, NoDesign> {
  readonly #saturator: Saturator
  #started = false

  constructor(sampleRateHz: number, channels: number) {
    this.#saturator = new Saturator(sampleRateHz, channels)
  }

  get latency(): number {
    return this.#saturator.latency
  }

  get idle(): boolean {
    return false
  }

  fits(): boolean {
    return true
  }

  set(params: DriveParams): void {
    this.#saturator.set(params, !this.#started)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    this.#saturator.process(channels, frames)
  }

  reset(): void {
    this.#saturator.reset()
    this.#started = false
  }

  dispose(): void {}
}
