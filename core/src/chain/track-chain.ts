import { dbToAmplitude } from '../audio'
import { Equaliser, type KeyedBand } from '../filters'
import { type Chain, STAGES } from '../session'
import type { Processor } from './processor'
import { Ramp } from './ramp'

/** The stages Clean → Fit → Shape → Output of one track or the mix. */
export class TrackChain implements Processor<Chain> {
  #rateHz = 48000
  readonly #stages = STAGES.map((name) => ({ name, equaliser: new Equaliser() }))
  readonly #gain = new Ramp(1)
  readonly #bypass = new Ramp(0, 0.03)
  #dry: Float32Array[] = []
  #started = false

  get latency(): number {
    return this.#stages.reduce((sum, s) => sum + s.equaliser.latency, 0)
  }

  prepare(sampleRateHz: number, channels: number, maxFrames = 4096): void {
    this.#rateHz = sampleRateHz
    this.#dry = Array.from({ length: channels }, () => new Float32Array(maxFrames))
    for (const { equaliser } of this.#stages) equaliser.prepare(sampleRateHz, channels)
    this.#started = false
  }

  set(chain: Chain): void {
    for (const { name, equaliser } of this.#stages) equaliser.set(stageBands(chain, name))
    const sign = chain.output.polarity === 'inverted' ? -1 : 1
    this.#move(this.#gain, sign * dbToAmplitude(chain.output.trimDb))
  }

  /** Lets the sound pass untreated, or treats it again; fades from one to the other. */
  setBypass(on: boolean): void {
    this.#move(this.#bypass, on ? 1 : 0)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    const bypassing = !this.#bypass.settled || this.#bypass.value > 0
    if (bypassing) {
      channels.forEach((channel, c) => {
        for (let i = 0; i < frames; i++) this.#dry[c][i] = channel[i]
      })
    }
    for (let s = 0; s < this.#stages.length; s++)
      this.#stages[s].equaliser.process(channels, frames)
    this.#applyGain(channels, frames)
    if (bypassing) this.#blendDry(channels, frames)
  }

  reset(): void {
    for (const { equaliser } of this.#stages) equaliser.reset()
    this.#gain.jumpTo(this.#gain.target)
    this.#bypass.jumpTo(this.#bypass.target)
    this.#started = false
  }

  #move(ramp: Ramp, target: number): void {
    if (this.#started) ramp.moveTo(target, this.#rateHz)
    else ramp.jumpTo(target)
  }

  #applyGain(channels: readonly Float32Array[], frames: number): void {
    if (this.#gain.settled && this.#gain.value === 1) return
    for (let i = 0; i < frames; i++) {
      const gain = this.#gain.next()
      for (let c = 0; c < channels.length; c++) channels[c][i] *= gain
    }
  }

  #blendDry(channels: readonly Float32Array[], frames: number): void {
    for (let i = 0; i < frames; i++) {
      const share = this.#bypass.next()
      for (let c = 0; c < channels.length; c++) {
        channels[c][i] += share * (this.#dry[c][i] - channels[c][i])
      }
    }
  }
}

/** The bands of a stage that sound: switched on, in a stage that is on. */
export function stageBands(chain: Chain, stage: (typeof STAGES)[number]): KeyedBand[] {
  const { on, moves } = chain[stage]
  return on ? moves.filter((m) => m.on).map(({ id, band }) => ({ id, band })) : []
}

/** All bands of a chain that sound, in order. */
export function chainBands(chain: Chain): KeyedBand[] {
  return STAGES.flatMap((stage) => stageBands(chain, stage))
}
