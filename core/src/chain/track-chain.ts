import { dbToAmplitude } from '../audio'
import { Equaliser, FirStage, type KeyedBand, type PhasePlan } from '../filters'
import { type Chain, STAGES } from '../session'
import { DelayLine } from './delay-line'
import type { Processor } from './processor'
import { Ramp } from './ramp'

/** What a chain is set to: the document's chain, and its kernels where its phase mode has any. */
export interface ChainSettings {
  readonly chain: Chain
  readonly kernels: PhasePlan | null
}

/** The stages Clean → Fit → Shape → Output of one track or the mix. */
export class TrackChain implements Processor<ChainSettings> {
  #rateHz = 48000
  readonly #stages = STAGES.map((name) => ({ name, equaliser: new Equaliser() }))
  #firs = new FirStage(2)
  readonly #gain = new Ramp(1)
  readonly #bypass = new Ramp(0, 0.03)
  #dry: Float32Array[] = []
  /** Holds the untreated sound back by the latency, for bypass. */
  #delay: DelayLine | null = null
  #started = false

  get latency(): number {
    return this.#firs.latency
  }

  prepare(sampleRateHz: number, channels: number, maxFrames = 4096): void {
    this.#rateHz = sampleRateHz
    this.#dry = Array.from({ length: channels }, () => new Float32Array(maxFrames))
    this.#firs = new FirStage(channels)
    this.#delay = null
    for (const { equaliser } of this.#stages) equaliser.prepare(sampleRateHz, channels)
    this.#started = false
  }

  /** A change of latency begins from silence; see {@link TrackChain.keepsLatency}. */
  set({ chain, kernels }: ChainSettings): void {
    const inFir = new Set(kernels?.inFir)
    for (const { name, equaliser } of this.#stages) {
      equaliser.set(stageBands(chain, name).filter(({ id }) => !inFir.has(id)))
    }
    this.#firs.set(kernels)
    if (this.latency !== (this.#delay?.frames ?? 0)) {
      this.#delay = this.latency > 0 ? new DelayLine(this.#dry.length, this.latency) : null
    }
    const sign = chain.output.polarity === 'inverted' ? -1 : 1
    this.#move(this.#gain, sign * dbToAmplitude(chain.output.trimDb))
  }

  /** True when settings can be taken over while sounding, because the latency stays as it is. */
  keepsLatency(kernels: PhasePlan | null): boolean {
    return this.#firs.fits(kernels)
  }

  /** The gain by which the chain multiplies when it does nothing else; `null` when it treats the sound. */
  get plainGain(): number | null {
    if (!this.#firs.idle || !this.#gain.settled || !this.#bypass.settled) return null
    if (this.#bypass.value === 1) return 1
    for (const { equaliser } of this.#stages) if (!equaliser.idle) return null
    return this.#gain.value
  }

  /** Lets the sound pass untreated, or treats it again; fades from one to the other. */
  setBypass(on: boolean): void {
    this.#move(this.#bypass, on ? 1 : 0)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    const bypassing = !this.#bypass.settled || this.#bypass.value > 0
    if (bypassing || this.#delay) {
      for (let c = 0; c < channels.length; c++) {
        for (let i = 0; i < frames; i++) this.#dry[c][i] = channels[c][i]
      }
      this.#delay?.process(this.#dry, frames)
    }
    this.#firs.process(channels, frames)
    for (let s = 0; s < this.#stages.length; s++) {
      this.#stages[s].equaliser.process(channels, frames)
    }
    this.#applyGain(channels, frames)
    if (bypassing) this.#blendDry(channels, frames)
  }

  /** Gives memory back; the chain is not to be used any more. */
  dispose(): void {
    this.#firs.dispose()
  }

  reset(): void {
    for (const { equaliser } of this.#stages) equaliser.reset()
    this.#firs.reset()
    this.#delay?.reset()
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
