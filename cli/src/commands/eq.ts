import {
  designBand,
  type EqBand,
  LONGEST_FIR,
  PHASE_NAMES,
  type PhasePlan,
  planPhase,
  type ReadableFilter,
  SHORTEST_FIR,
} from '@sober-prism/core/filters'
import { DocumentError, parseEqFile } from '@sober-prism/core/session'
import type { ParsedCall } from '../arguments'
import { FileError, UsageError } from '../cli-error'
import { readText } from '../files'

/** Bands of an EQ file with identities, and their plan for a phase mode. */
export interface PlannedEq {
  readonly bands: readonly { readonly id: string; readonly band: EqBand }[]
  readonly plan: PhasePlan
}

/** Reads an EQ file strictly. @throws FileError that names the place. */
export async function readEqFile(cwd: string, file: string): Promise<EqBand[]> {
  const text = await readText(cwd, file)
  try {
    return parseEqFile(text)
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
}

/** Refuses bands that lie beyond half a sample rate: nothing sounds there. @throws FileError */
export function requireBelowHalf(bands: readonly EqBand[], rateHz: number, file: string): void {
  const at = bands.findIndex((b) => b.hz >= rateHz / 2)
  if (at < 0) return
  throw new FileError(
    file,
    `The band at bands[${at}] lies at ${bands[at].hz} Hz; at ${rateHz} Hz it must stay below ${rateHz / 2} Hz.`,
  )
}

/** Plans bands for the phase mode of a call, `minimum` by default. */
export function planEq(call: ParsedCall, list: readonly EqBand[], rateHz: number): PlannedEq {
  const phase = phaseOf(call)
  const bands = list.map((band, i) => ({ id: `${i}`, band }))
  return { bands, plan: planPhase(bands, phase, rateHz, tapsOf(call)) }
}

/** What a planned EQ does to a signal on one channel of the stage, for reading. */
export function readableEq({ bands, plan }: PlannedEq, rateHz: number): ReadableFilter {
  return {
    sections: bands
      .filter(({ id }) => !plan.inFir.includes(id))
      .flatMap(({ band }) => designBand(band, rateHz)),
    kernels: plan.firs.map(({ kernels }) => kernels[0]),
    latency: plan.firs.reduce((sum, { kernels }) => sum + (kernels[0].length - 1) / 2, 0),
  }
}

/** The phase mode of a call, `minimum` by default. */
export function phaseOf(call: ParsedCall) {
  return call.choice('phase', PHASE_NAMES, 'minimum')
}

/** The length of linear-phase kernels, if the call sets it: odd, so that the delay is whole. */
export function tapsOf(call: ParsedCall): number | undefined {
  const taps = call.number('taps')
  if (taps === undefined) return undefined
  if (!Number.isInteger(taps) || taps < SHORTEST_FIR || taps > LONGEST_FIR) {
    throw new UsageError(`--taps takes ${SHORTEST_FIR} to ${LONGEST_FIR}`, '… --taps N')
  }
  return taps % 2 === 0 ? taps - 1 : taps
}
