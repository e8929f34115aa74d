import type { SpectrumPair } from './correction'
import { TWELFTHS } from './profile'

/** A published response: gain over frequency, in rising order. */
export type Response = readonly { readonly hz: number; readonly db: number }[]

/** The least points that a published response is worth reading with. */
const LEAST_RESPONSE_POINTS = 3

/**
 * From one published response to another, as if both were spectra: over what both tell of, straight over the logarithm
 * of frequency. Such a curve has been drawn smooth already.
 * @throws RangeError when one has too few points, or they have no octave in common.
 */
export function pairOfResponses(from: Response, to: Response): SpectrumPair {
  if (Math.min(from.length, to.length) < LEAST_RESPONSE_POINTS) {
    throw new RangeError(`A response has ${LEAST_RESPONSE_POINTS} points at least.`)
  }
  const lowest = Math.max(from[0].hz, to[0].hz)
  const highest = Math.min(from[from.length - 1].hz, to[to.length - 1].hz)
  if (highest < 2 * lowest) throw new RangeError('The two responses have no octave in common.')
  const levels = (response: Response) => TWELFTHS.map(({ hz }) => dbAt(response, hz))
  return {
    haveDb: levels(from),
    wantDb: levels(to),
    weight: TWELFTHS.map(({ hz }) => (hz >= lowest && hz <= highest ? 1 : 0)),
  }
}

function dbAt(response: Response, hz: number): number {
  const next = response.findIndex((p) => p.hz >= hz)
  if (next < 0) return response[response.length - 1].db
  if (next === 0) return response[0].db
  const [a, b] = [response[next - 1], response[next]]
  const share = Math.log(hz / a.hz) / Math.log(b.hz / a.hz)
  return a.db + share * (b.db - a.db)
}
