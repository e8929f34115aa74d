import { Ramp } from '../audio'
import type { AnyWorkings, TreatmentProcessor } from './kind'
import type { Key } from './treatment'

/** A treatment as the mixer needs it: its values, and what was designed from them ahead of the sound. */
export interface TreatmentPlan {
  readonly id: string
  readonly kind: string
  readonly params: unknown
  readonly design: unknown
  readonly key: Key | null
}

/** Treatments that are switched on, in order, and the gain behind them. */
interface ChainPlan {
  readonly treatments: readonly Omit<TreatmentPlan, 'key'>[]
  readonly gain: number
}

type AnyProcessor = TreatmentProcessor<unknown, unknown>

interface Slot {
  readonly id: string
  readonly kind: string
  readonly processor: AnyProcessor
  /** Share of the treated sound: treatments without latency come and go by it. */
  readonly wet: Ramp
  leaving: boolean
}

/** Gives what a treatment listens to for the block at hand, by the treatment's id; null where nothing is. */
export type ReadKey = (treatment: string) => readonly Float32Array[] | null

const FADE_SECONDS = 0.03
const NO_KEY: ReadKey = () => null

/** Treatments in series, then a gain: those of a node, or of one band of it. In place, block by block. */
export class Chain {
  #slots: Slot[] = []
  readonly #gain = new Ramp(1)
  readonly #dry: Float32Array[]
  #latency = 0
  #started = false

  constructor(
    private readonly sampleRateHz: number,
    readonly channels: number,
    maxFrames: number,
    /** The workings of a kind, by its name. */
    private readonly workingsOf: (kind: string) => AnyWorkings,
  ) {
    this.#dry = Array.from({ length: channels }, () => new Float32Array(maxFrames))
  }

  /** Delay of the output behind the input, in frames. */
  get latency(): number {
    return this.#latency
  }

  /** Latency from a treatment's input to the chain's output. */
  latencyFrom(treatment: string): number {
    let sum = 0
    let found = false
    for (const slot of this.#slots) {
      found ||= slot.id === treatment
      if (found) sum += slot.processor.latency
    }
    return sum
  }

  /** The gain by which the chain multiplies when it does nothing else; null when it treats the sound. */
  get plainGain(): number | null {
    if (!this.#gain.settled) return null
    for (const slot of this.#slots) if (slot.leaving || !slot.processor.idle) return null
    return this.#gain.value
  }

  /** True when a plan can be taken over while sounding: order and latencies stay as they are. */
  fits({ treatments }: Pick<ChainPlan, 'treatments'>): boolean {
    const present = this.#slots.filter((s) => !s.leaving)
    const wanted = new Map(treatments.map((t, i) => [t.id, i]))
    let last = -1
    for (const { id, kind, processor } of present) {
      const at = wanted.get(id)
      if (at === undefined) {
        // It can fade out where it stands, unless it is late.
        if (processor.latency > 0) return false
        continue
      }
      const plan = treatments[at]
      if (plan.kind !== kind || at < last || !processor.fits(plan.params, plan.design)) return false
      last = at
    }
    const ids = new Set(present.map((s) => s.id))
    return treatments.every((t) => ids.has(t.id) || this.#latencyOf(t) === 0)
  }

  #latencyOf({ kind, params, design }: ChainPlan['treatments'][number]): number {
    return this.workingsOf(kind).latency(params, design, this.channels)
  }

  /** Takes a plan over: gliding while it sounds and fits, at once otherwise. */
  set({ treatments, gain }: ChainPlan): void {
    const old = new Map(this.#slots.filter((s) => !s.leaving).map((s) => [s.id, s]))
    const glides = this.#started && this.fits({ treatments })
    const next: Slot[] = treatments.map((plan) => {
      const known = old.get(plan.id)
      old.delete(plan.id)
      if (known?.kind === plan.kind) {
        known.processor.set(plan.params, plan.design)
        return known
      }
      known?.processor.dispose()
      const processor = this.workingsOf(plan.kind).make(this.sampleRateHz, this.channels)
      processor.set(plan.params, plan.design)
      const wet = new Ramp(glides ? 0 : 1, FADE_SECONDS)
      if (glides) wet.moveTo(1, this.sampleRateHz)
      return { id: plan.id, kind: plan.kind, processor, wet, leaving: false }
    })
    for (const [index, slot] of this.#slots.entries()) {
      if (next.includes(slot)) continue
      if (glides && (slot.leaving || old.has(slot.id))) {
        slot.leaving = true
        slot.wet.moveTo(0, this.sampleRateHz)
        next.splice(Math.min(index, next.length), 0, slot)
      } else slot.processor.dispose()
    }
    this.#slots = next
    this.#latency = next.reduce((sum, s) => sum + s.processor.latency, 0)
    if (this.#started) this.#gain.moveTo(gain, this.sampleRateHz)
    else this.#gain.jumpTo(gain)
  }

  process(channels: readonly Float32Array[], frames: number, readKey: ReadKey = NO_KEY): void {
    this.#started = true
    let gone = false
    for (let s = 0; s < this.#slots.length; s++) {
      const slot = this.#slots[s]
      if (slot.processor.idle && !slot.leaving) continue
      if (slot.wet.settled && !slot.leaving) {
        slot.processor.process(channels, frames, readKey(slot.id))
      } else {
        this.#fade(slot, channels, frames, readKey(slot.id))
        gone ||= slot.leaving && slot.wet.settled
      }
    }
    if (gone) this.#dropSilent()
    if (this.#gain.settled && this.#gain.value === 1) return
    for (let i = 0; i < frames; i++) {
      const gain = this.#gain.next()
      for (let c = 0; c < channels.length; c++) channels[c][i] *= gain
    }
  }

  #fade(
    { processor, wet }: Slot,
    channels: readonly Float32Array[],
    frames: number,
    key: readonly Float32Array[] | null,
  ): void {
    for (let c = 0; c < channels.length; c++) {
      for (let i = 0; i < frames; i++) this.#dry[c][i] = channels[c][i]
    }
    processor.process(channels, frames, key)
    for (let i = 0; i < frames; i++) {
      const share = wet.next()
      for (let c = 0; c < channels.length; c++) {
        channels[c][i] = this.#dry[c][i] + share * (channels[c][i] - this.#dry[c][i])
      }
    }
  }

  #dropSilent(): void {
    const gone = this.#slots.filter((s) => s.leaving && s.wet.settled)
    this.#slots = this.#slots.filter((s) => !gone.includes(s))
    for (const { processor } of gone) processor.dispose()
  }

  /** Writes how far a treatment's bands are drawn at this moment; see `TreatmentProcessor.readGains`. */
  readGains(treatment: string, out: Float32Array): number {
    for (const slot of this.#slots) {
      if (slot.id === treatment) return slot.processor.readGains?.(out) ?? 0
    }
    return 0
  }

  /** Forgets past sound; settings stand where they were going. */
  reset(): void {
    for (const slot of this.#slots) {
      slot.processor.reset()
      slot.wet.jumpTo(slot.wet.target)
    }
    this.#dropSilent()
    this.#gain.jumpTo(this.#gain.target)
    this.#started = false
  }

  dispose(): void {
    for (const { processor } of this.#slots) processor.dispose()
    this.#slots = []
  }
}
