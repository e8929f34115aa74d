import { type BellPlace, linearBankFrames } from '../../dynamics'
import { designBand, newBand, sectionsDb } from '../../filters'
import { earTransferDb, filterNear, lowerSlope, roex, symmetricSlope } from '../../hearing'
import { erbBandwidthHz, erbNumberToHz, hzToErbNumber } from '../../spectrum'
import { DUCK_WIDTHS, type DuckParams } from './params'

/** What a bank needs ready-made. */
export interface DuckDesign {
  readonly key: string
  readonly places: readonly BellPlace[]
  /** Edges of the bands, in Hz. */
  readonly edgesHz: readonly number[]
  /** What each bell does in the middle of each band, as a part of its own gain: `n × n`, row by row. */
  readonly responses: Float64Array
  /** Its inverse: gains of bells that together give what is asked of each band. */
  readonly inverse: Float64Array
  /** How much of each band's power reaches the auditory filter in the middle of each other: `n × n`. */
  readonly spread: Float64Array
  /** The auditory filter in the middle of each band, by its number. */
  readonly filters: readonly number[]
  readonly lookAheadFrames: number
  /** By how much the sound is late, in frames. */
  readonly latencyFrames: number
}

/** Excitation of a sound as loud as speech, by which its spread upwards is chosen. */
const USUAL_DB = 60
/** Bells of a bank meet at half of their gain. */
const OVERLAP = 1
const PROTOTYPE_DB = -6

export function designDuck(params: DuckParams, sampleRateHz: number): DuckDesign {
  const { fineness, fromHz, toHz, lookAheadMs, phase } = params
  const width = DUCK_WIDTHS[fineness - 1]
  const top = Math.min(toHz, 0.45 * sampleRateHz)
  const [from, to] = [hzToErbNumber(fromHz), hzToErbNumber(Math.max(top, 1.05 * fromHz))]
  const lookAheadFrames = phase === 'linear' ? 0 : Math.round((lookAheadMs * sampleRateHz) / 1000)
  const count = Math.max(1, Math.round((to - from) / width))
  const step = (to - from) / count
  const edgesHz = Array.from({ length: count + 1 }, (_, i) => erbNumberToHz(from + i * step))
  const places = Array.from({ length: count }, (_, i) => {
    const hz = erbNumberToHz(from + (i + 0.5) * step)
    return { hz, q: hz / (OVERLAP * (edgesHz[i + 1] - edgesHz[i])) }
  })
  const responses = responsesOf(places, sampleRateHz)
  return {
    key: JSON.stringify([fineness, fromHz, toHz, sampleRateHz, phase]),
    places,
    edgesHz,
    responses,
    inverse: inverseOf(responses, count),
    spread: spreads(places),
    filters: places.map(({ hz }) => filterNear(hz)),
    lookAheadFrames,
    latencyFrames: phase === 'linear' ? linearBankFrames(sampleRateHz) : lookAheadFrames,
  }
}

/** What each bell does in the middle of each band, as a part of its own gain (Välimäki and Liski 2017, JAES 65). */
function responsesOf(places: readonly BellPlace[], sampleRateHz: number): Float64Array {
  const n = places.length
  const out = new Float64Array(n * n)
  places.forEach(({ hz, q }, b) => {
    const sections = designBand({ ...newBand('bell', hz), q, db: PROTOTYPE_DB }, sampleRateHz)
    places.forEach(({ hz: at }, i) => {
      out[i * n + b] = sectionsDb(sections, at, sampleRateHz) / PROTOTYPE_DB
    })
  })
  return out
}

/** Gauss and Jordan with pivots; the matrix is small and stands well. */
function inverseOf(matrix: Float64Array, n: number): Float64Array {
  const a = matrix.slice()
  const out = new Float64Array(n * n)
  for (let i = 0; i < n; i++) out[i * n + i] = 1
  for (let c = 0; c < n; c++) {
    let pivot = c
    for (let r = c + 1; r < n; r++) {
      if (Math.abs(a[r * n + c]) > Math.abs(a[pivot * n + c])) pivot = r
    }
    for (let k = 0; k < n; k++) {
      ;[a[c * n + k], a[pivot * n + k]] = [a[pivot * n + k], a[c * n + k]]
      ;[out[c * n + k], out[pivot * n + k]] = [out[pivot * n + k], out[c * n + k]]
    }
    const scale = 1 / a[c * n + c]
    for (let k = 0; k < n; k++) {
      a[c * n + k] *= scale
      out[c * n + k] *= scale
    }
    for (let r = 0; r < n; r++) {
      const factor = a[r * n + c]
      if (r === c || factor === 0) continue
      for (let k = 0; k < n; k++) {
        a[r * n + k] -= factor * a[c * n + k]
        out[r * n + k] -= factor * out[c * n + k]
      }
    }
  }
  return out
}

/** Roex filters (Glasberg and Moore 1990) at the bands' middles behind the middle ear, slopes as at the level of speech. */
function spreads(places: readonly BellPlace[]): Float64Array {
  const n = places.length
  const out = new Float64Array(n * n)
  places.forEach(({ hz, q }, b) => {
    const bandwidth = hz / q
    const ear = 10 ** (earTransferDb(hz) / 10)
    places.forEach(({ hz: centre }, i) => {
      const erb = erbBandwidthHz(centre)
      // Of a band that is wider than the filter a part lies in it; another reaches into it by its nearer edge.
      const away = Math.max(0, Math.abs(hz - centre) - Math.max(0, bandwidth - erb) / 2)
      const slope = hz > centre ? symmetricSlope(centre) : lowerSlope(centre, USUAL_DB)
      out[i * n + b] = ear * Math.min(1, erb / bandwidth) * roex(slope, away / centre)
    })
  })
  return out
}
