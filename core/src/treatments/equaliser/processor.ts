import { Equaliser, FirStage, type KeyedBand } from '../../filters'
import type { TreatmentProcessor } from '../kind'
import type { EqualiserDesign } from './design'
import { activeBands, type EqualiserParams } from './params'

/** Runs an equaliser: FIR groups first, then the recursive bands. */
export class EqualiserProcessor implements TreatmentProcessor<EqualiserParams, EqualiserDesign> {
  readonly #firs: FirStage
  readonly #bands = new Equaliser()

  constructor(sampleRateHz: number, channels: number) {
    this.#firs = new FirStage(channels)
    this.#bands.prepare(sampleRateHz, channels)
  }

  get latency(): number {
    return this.#firs.latency
  }

  get idle(): boolean {
    return this.#firs.idle && this.#bands.idle
  }

  fits(_: EqualiserParams, design: EqualiserDesign): boolean {
    return this.#firs.fits(design.fir)
  }

  set(params: EqualiserParams, { fir, sections }: EqualiserDesign): void {
    const inFir = new Set(fir?.inFir)
    const recursive: KeyedBand[] = []
    for (const { id, band } of activeBands(params)) {
      if (!inFir.has(id)) recursive.push({ id, band, sections: sections[id] })
    }
    this.#bands.set(recursive)
    this.#firs.set(fir)
  }

  process(channels: readonly Float32Array[], frames: number): void {
    if (!this.#firs.idle) this.#firs.process(channels, frames)
    this.#bands.process(channels, frames)
  }

  reset(): void {
    this.#bands.reset()
    this.#firs.reset()
  }

  dispose(): void {
    this.#firs.dispose()
  }
}
