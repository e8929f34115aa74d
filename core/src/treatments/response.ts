import { firMagnitudeDb, type ReadableFilter, readFilter, sectionsDb } from '../filters'
import type { StereoPart, TreatmentResponse } from './kind'
import type { Treatment } from './treatment'
import { workingsOf } from './workings'

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
    .flatMap((t) => {
      const read = responseOf(t, sampleRateHz, part)
      return read ? [read] : []
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
    db: (hz) =>
      hz.length >= MANY || filter.kernels.every((kernel) => spectra.has(kernel))
        ? quickDb(filter, hz, sampleRateHz)
        : Float64Array.from(readFilter(filter, hz, sampleRateHz), (r) => r.db),
  }
}

/** The last response of each treatment's values: most of a chain stands still while one of it is moved. */
const responses = new WeakMap<
  Treatment['params'],
  { readonly of: string; readonly response: TreatmentResponse | null }
>()

function responseOf(
  { kind, params }: Treatment,
  sampleRateHz: number,
  part: StereoPart,
): TreatmentResponse | null {
  const of = `${kind} ${sampleRateHz} ${part}`
  const kept = responses.get(params)
  if (kept?.of === of) return kept.response
  const { response, design } = workingsOf(kind)
  // What moves from moment to moment has no response to be read.
  const read = response ? response(params, design(params, sampleRateHz), sampleRateHz, part) : null
  responses.set(params, { of, response: read })
  return read
}

/** From so many frequencies on, kernels are read by one transform, which is kept for later readings. */
const MANY = 32
/** It is so many times as long as the kernel: what lies between its bins is straight within 0.01 dB. */
const READ_FACTOR = 8

const spectra = new WeakMap<ArrayLike<number>, Float64Array>()

/** Magnitudes of long kernels at many frequencies: between the bins of a fine transform. */
function quickDb(
  { sections, kernels }: ReadableFilter,
  hz: ArrayLike<number>,
  sampleRateHz: number,
): Float64Array {
  const read = kernels.map((kernel) => {
    let db = spectra.get(kernel)
    if (!db) {
      db = firMagnitudeDb(kernel, 2 ** Math.ceil(Math.log2(READ_FACTOR * kernel.length)))
      spectra.set(kernel, db)
    }
    return db
  })
  return Float64Array.from(hz, (f) =>
    read.reduce(
      (sum, db) => {
        const at = Math.min(db.length - 1, (f / (sampleRateHz / 2)) * (db.length - 1))
        const k = Math.min(db.length - 2, Math.floor(at))
        return sum + db[k] + (at - k) * (db[k + 1] - db[k])
      },
      sectionsDb(sections, f, sampleRateHz),
    ),
  )
}
