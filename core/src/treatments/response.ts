import { type ReadableFilter, readFilter } from '../filters'
import type { StereoPart } from './kind'
import { kindOf } from './registry'
import type { Treatment } from './treatment'

/** What several treatments in series do to one part of a sound. */
export interface ChainResponse {
  readonly filter: ReadableFilter
  readonly sign: 1 | -1
  /** Delay beyond all latencies, in frames. */
  readonly delayFrames: number
  /** At frequencies in rising order, in dB. */
  db(hz: ArrayLike<number>): Float64Array
}

/** Reads the treatments that are on, in series. Designs them: not for the audio thread. */
export function respondChain(
  treatments: readonly Treatment[],
  sampleRateHz: number,
  part: StereoPart,
): ChainResponse {
  const parts = treatments
    .filter((t) => t.on)
    .map((t) => {
      const kind = kindOf(t.kind)
      return kind.response(t.params, kind.design(t.params, sampleRateHz), sampleRateHz, part)
    })
  const filter: ReadableFilter = {
    sections: parts.flatMap((p) => [...p.sections]),
    kernels: parts.flatMap((p) => [...p.kernels]),
    latency: parts.reduce((sum, p) => sum + p.latency, 0),
  }
  return {
    filter,
    sign: parts.reduce<1 | -1>((sign, p) => (sign === p.sign ? 1 : -1), 1),
    delayFrames: parts.reduce((sum, p) => sum + p.delayFrames, 0),
    db: (hz) => Float64Array.from(readFilter(filter, hz, sampleRateHz), (r) => r.db),
  }
}
