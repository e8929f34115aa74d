import { Ramp } from '../../audio'
import { Saturator } from '../../dynamics'
import { Equaliser } from '../../filters'
import type { TreatmentProcessor } from '../kind'
import { type BroadStrokesParams, strokeBands } from './params'
import type { BroadStrokesDesign } from './workings'

/** Runs broad strokes: tone, then drive, then level and polarity. */
export class BroadStrokesProcessor
  implements TreatmentProcessor<BroadStrokesParams, BroadStrokesDesign>
{
  readonly #bands = new Equaliser()
  #saturator: Saturator | null = null
  readonly #output = new Ramp(1)
  #started = false

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
  ) {
    this.#bands.prepare(sampleRateHz, channels)
  }

  get latency(): number {
    return this.#saturator?.latency ?? 0
  }

  get idle(): boolean {
    return this.#bands.idle && !this.#saturator && this.#output.settled && this.#output.value === 1
  }

  fits({ driveDb }: BroadStrokesParams): boolean {
    return driveDb > 0 === (this.#saturator !== null)
  }

  set(params: BroadStrokesParams, { sections }: BroadStrokesDesign): void {
    const { driveDb, outputDb, polarity } = params
    this.#bands.set(strokeBands(params).map((b) => ({ ...b, sections: sections[b.id] })))
    if (!this.fits(params)) {
      this.#saturator = driveDb > 0 ? new Saturator(this.sampleRateHz, this.channels) : null
    }
    this.#saturator?.set({ driveDb, mix: 1, outputDb: 0 }, !this.#started)
    const output = polarity * 10 ** (outputDb / 20)
    if (this.#started) this.#output.moveTo(output, this.sampleRateHz)
    else this.#output.jumpTo(output)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    this.#bands.process(channels, frames)
    this.#saturator?.process(channels, frames)
    if (this.#output.settled) {
      for (let c = 0; c < channels.length; c++) {
        this.#output.applyTo(channels[c], channels[c], frames)
      }
      return
    }
    for (let i = 0; i < frames; i++) {
      const gain = this.#output.next()
      for (let c = 0; c < channels.length; c++) channels[c][i] *= gain
    }
  }

  reset(): void {
    this.#bands.reset()
    this.#saturator?.reset()
    this.#started = false
  }

  dispose(): void {}
}
