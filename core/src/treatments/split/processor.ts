import { DelayLine, Ramp } from '../../audio'
import { type Crossover, makeCrossover } from '../../filters'
import { Chain } from '../chain'
import type { AnyWorkings, TreatmentProcessor } from '../kind'
import { bandGains, type SplitBand, type SplitDesign, type SplitParams } from './params'

/** Frames at a time; the mixer's blocks may be longer. */
const CHUNK = 512
/** A crossover that begins has not heard what came before: it runs along unheard for so long, then takes over. */
const WARM_SECONDS = 0.06
const FADE_SECONDS = 0.03

interface Band {
  readonly chain: Chain
  readonly gain: Ramp
  readonly width: Ramp
  /** Makes up for chains of other bands that are later. */
  delay: DelayLine | null
  /** What is in it at the moment. */
  readonly sound: Float32Array[]
}

/** Parts a sound, runs each band through its chain, and adds them up in time with each other. */
export class SplitProcessor implements TreatmentProcessor<SplitParams, SplitDesign> {
  readonly idle = false
  latency = 0
  #bands: Band[] = []
  #crossover: Crossover | null = null
  #key = ''
  /** Follows the one in use where a frequency was moved. */
  #next: Crossover | null = null
  #wanted: Crossover | null = null
  /** Frames since the next one began. */
  #nextRan = 0
  readonly #input: Float32Array[]
  #sounds: Float32Array[][] = []
  #nextSounds: Float32Array[][] = []
  #started = false

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
    private readonly workingsOf: (kind: string) => AnyWorkings,
  ) {
    this.#input = this.#row()
  }

  #row(): Float32Array[] {
    return Array.from({ length: this.channels }, () => new Float32Array(CHUNK))
  }

  fits(params: SplitParams, design: SplitDesign): boolean {
    if (!this.#crossover || params.bands.length !== this.#bands.length) return false
    const { taps, kind } = tapsOf(design)
    const own = this.#key.split(' ')
    return (
      own[0] === kind &&
      own[1] === String(taps) &&
      params.bands.every((band, i) => this.#bands[i].chain.fits(plansOf(band, i, design)))
    )
  }

  set(params: SplitParams, design: SplitDesign): void {
    const key = keyOf(design)
    const glides = this.#started && this.fits(params, design)
    if (!glides || !this.#crossover) this.#begin(params, design)
    else if (key !== this.#key) {
      this.#wanted?.dispose()
      this.#wanted = makeCrossover(design.spec, this.sampleRateHz, this.channels, design.crossover)
    }
    this.#key = key
    const gains = bandGains(params)
    params.bands.forEach((values, i) => {
      const band = this.#bands[i]
      band.chain.set({ ...plansOf(values, i, design), gain: 1 })
      if (glides) {
        band.gain.moveTo(gains[i], this.sampleRateHz)
        band.width.moveTo(values.width, this.sampleRateHz)
      } else {
        band.gain.jumpTo(gains[i])
        band.width.jumpTo(values.width)
      }
    })
    const latest = Math.max(...this.#bands.map((b) => b.chain.latency))
    if (!glides) {
      for (const band of this.#bands) {
        const early = latest - band.chain.latency
        band.delay = early > 0 ? new DelayLine(this.channels, early) : null
      }
    }
    this.latency = (this.#crossover?.latency ?? 0) + latest
  }

  #begin({ bands }: SplitParams, design: SplitDesign): void {
    this.dispose()
    this.#crossover = makeCrossover(design.spec, this.sampleRateHz, this.channels, design.crossover)
    this.#sounds = bands.map(() => this.#row())
    this.#nextSounds = bands.map(() => this.#row())
    this.#bands = bands.map((_, i) => ({
      chain: new Chain(this.sampleRateHz, this.channels, CHUNK, this.workingsOf),
      gain: new Ramp(1),
      width: new Ramp(1),
      delay: null,
      sound: this.#sounds[i],
    }))
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#started = true
    for (let at = 0; at < frames; at += CHUNK) {
      const count = Math.min(CHUNK, frames - at)
      for (let c = 0; c < channels.length; c++) {
        for (let i = 0; i < count; i++) this.#input[c][i] = channels[c][at + i]
        channels[c].fill(0, at, at + count)
      }
      this.#part(count)
      for (let b = 0; b < this.#bands.length; b++) this.#add(this.#bands[b], channels, at, count)
    }
  }

  /** Fills every band's sound; where the crossover is being moved, both run and one gives over to the other. */
  #part(count: number): void {
    this.#crossover?.process(this.#input, this.#sounds, count)
    if (!this.#next && this.#wanted) {
      this.#next = this.#wanted
      this.#wanted = null
      this.#nextRan = 0
    }
    if (!this.#next) return
    this.#next.process(this.#input, this.#nextSounds, count)
    const warm = WARM_SECONDS * this.sampleRateHz
    const fade = FADE_SECONDS * this.sampleRateHz
    for (let b = 0; b < this.#sounds.length; b++) {
      for (let c = 0; c < this.channels; c++) {
        const old = this.#sounds[b][c]
        const next = this.#nextSounds[b][c]
        for (let i = 0; i < count; i++) {
          const share = Math.min(1, Math.max(0, (this.#nextRan + i - warm) / fade))
          old[i] += share * (next[i] - old[i])
        }
      }
    }
    this.#nextRan += count
    if (this.#nextRan < warm + fade) return
    this.#crossover?.dispose()
    this.#crossover = this.#next
    this.#next = null
  }

  #add(
    { chain, gain, width, delay, sound }: Band,
    out: readonly Float32Array[],
    at: number,
    count: number,
  ): void {
    chain.process(sound, count)
    delay?.process(sound, count)
    const left = sound[0]
    const right = sound[1]
    if (!right) {
      for (let i = 0; i < count; i++) out[0][at + i] += gain.next() * left[i]
      return
    }
    if (width.settled && width.value === 1) {
      for (let i = 0; i < count; i++) {
        const g = gain.next()
        out[0][at + i] += g * left[i]
        out[1][at + i] += g * right[i]
      }
      return
    }
    for (let i = 0; i < count; i++) {
      const g = gain.next() / 2
      const mid = g * (left[i] + right[i])
      const side = g * width.next() * (left[i] - right[i])
      out[0][at + i] += mid + side
      out[1][at + i] += mid - side
    }
  }

  reset(): void {
    this.#crossover?.reset()
    for (const b of this.#bands) {
      b.chain.reset()
      b.delay?.reset()
      b.gain.jumpTo(b.gain.target)
      b.width.jumpTo(b.width.target)
    }
    const last = this.#wanted ?? this.#next
    if (last) {
      if (last !== this.#next) this.#next?.dispose()
      this.#crossover?.dispose()
      this.#crossover = last
      last.reset()
    }
    this.#next = null
    this.#wanted = null
    this.#started = false
  }

  dispose(): void {
    for (const crossover of [this.#crossover, this.#next, this.#wanted]) crossover?.dispose()
    for (const { chain } of this.#bands) chain.dispose()
    this.#crossover = null
    this.#next = null
    this.#wanted = null
    this.#bands = []
  }
}

function tapsOf({ spec, crossover }: SplitDesign) {
  return { kind: spec.kind, taps: crossover[0]?.length ?? 0 }
}

function keyOf(design: SplitDesign): string {
  const { kind, taps } = tapsOf(design)
  return [kind, taps, design.spec.slopeDbPerOct, ...design.spec.hz].join(' ')
}

/** A band's chain as it is run. */
function plansOf({ treatments }: SplitBand, band: number, { inner }: SplitDesign) {
  return {
    treatments: treatments
      .filter((t) => t.on)
      .map(({ id, kind, params }) => ({ id, kind, params, design: inner[`${band} ${id}`] })),
  }
}
