import { impulseResponse, preEchoOf, readDense, stepResponse } from '@sober-prism/core/filters'
import {
  type ChainResponse,
  respondChain,
  type Treatment,
  workingsOf,
} from '@sober-prism/core/treatments'
import { CURVE_HZ } from '../read-curve'

/** What of a chain is read besides its level. */
export type ReadingKind = 'phase' | 'delay' | 'impulse' | 'step'

/** One line of a picture: at {@link CURVE_HZ}, or at times. */
export interface ReadingLine {
  /** In degrees, milliseconds, or against full scale. */
  readonly values: ArrayLike<number>
  /** Milliseconds of each value, 0 where the undelayed sound stands; null along frequency. */
  readonly times: Float64Array | null
}

/** @param unwrapped whether phase goes on beyond half a turn. */
export function readLine(
  treatments: readonly Treatment[],
  kind: ReadingKind,
  rateHz: number,
  unwrapped: boolean,
): ReadingLine {
  const response = respondChain(treatments, rateHz, 'mid')
  if (kind === 'impulse' || kind === 'step') return readTime(response, kind, rateHz)
  const { filter, sign, delayFrames } = response
  const read = readDense({ ...filter, latency: filter.latency - delayFrames }, CURVE_HZ, rateHz)
  const turned = sign === 1 ? 0 : 180
  const values = read.map(({ unwrappedDeg, groupDelayMs }) => {
    if (kind === 'delay') return groupDelayMs
    const degrees = unwrappedDeg + turned
    return unwrapped ? degrees : degrees - 360 * Math.round(degrees / 360)
  })
  return { values, times: null }
}

/** What phase costs. */
export interface PhaseReading {
  /** As it is made up for, with what long filters need to be computed. */
  readonly latencyMs: number
  /** Strongest echo more than 5 ms before the sound, relative to it; null where there is none over -120 dB. */
  readonly preEchoDb: number | null
}

const LEAST_ECHO_DB = -120

/** Latency and pre-echo of treatments as they are designed. */
export function readCost(treatments: readonly Treatment[], rateHz: number): PhaseReading {
  const active = treatments.filter((t) => t.on)
  const frames = active.reduce((sum, { kind, params }) => {
    const { design, latency } = workingsOf(kind)
    return sum + latency(params, design(params, rateHz), 2)
  }, 0)
  const { filter } = respondChain(active, rateHz, 'mid')
  const main = Math.round(filter.latency)
  const db = main === 0 ? null : preEchoOf(impulseResponse(filter, main + 1), main, rateHz)
  return {
    latencyMs: (1000 * frames) / rateHz,
    preEchoDb: db !== null && db > LEAST_ECHO_DB ? db : null,
  }
}

/** Quieter than this against the strongest, the beginning and the end of an impulse are left out. */
const LEAST_DB = -70
const LONGEST_SECONDS = 1
const SHORTEST_MS = 4

function readTime(
  { filter, sign, delayFrames }: ChainResponse,
  kind: 'impulse' | 'step',
  rateHz: number,
): ReadingLine {
  const kernels = filter.kernels.reduce((sum, k) => sum + k.length, 0)
  const frames = Math.round(kernels + LONGEST_SECONDS * rateHz)
  const impulse = impulseResponse(filter, frames)
  const most = impulse.reduce((a, v) => Math.max(a, Math.abs(v)), 0)
  const least = most * 10 ** (LEAST_DB / 20)
  const first = impulse.findIndex((v) => Math.abs(v) >= least)
  const last = impulse.findLastIndex((v) => Math.abs(v) >= least)
  const zero = Math.round(filter.latency)
  const margin = Math.round((SHORTEST_MS / 4000) * rateHz)
  const from = Math.max(0, Math.min(first, zero) - margin)
  const to = Math.min(frames, Math.max(last, zero + (SHORTEST_MS / 1000) * rateHz) + margin)
  const values = kind === 'impulse' ? impulse : stepResponse(filter, frames)
  const length = Math.max(1, Math.round(to - from))
  return {
    values: Float64Array.from({ length }, (_, i) => sign * values[from + i]),
    times: Float64Array.from(
      { length },
      (_, i) => (1000 * (from + i - filter.latency + delayFrames)) / rateHz,
    ),
  }
}
