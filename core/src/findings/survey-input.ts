import type { EqBand } from '../filters'
import type { MaskingSums, MaskingTrack } from '../hearing'
import type { Edit, Role } from '../session'
import { newChainBand, type StageName, type Treatment } from '../treatments'
import { alignPair } from './alignment/alignment'
import type { BalanceTarget } from './balance/balance'
import type { Prediction } from './finding'
import { Trial, type TrialSettings } from './masking/trial'
import { type ReadableMeasure, readMeasure } from './measure'
import type { SourceReading } from './source/source-reading'

/** One track as findings see it. */
export interface SurveyTrack {
  readonly id: string
  readonly reading: SourceReading
  /** Gain at which it stands in the mix, in dB. */
  readonly gainDb: number
  /** Where its own fader stands, in dB: a part of that gain. */
  readonly faderDb: number
  /** Whether others make room for it. */
  readonly isLead: boolean
  readonly role: Role
}

/** What was measured of the tracks of a session. */
export interface SurveyTracks {
  readonly tracks: readonly SurveyTrack[]
  readonly settings: TrialSettings
}

/** Everything that was measured of a session. */
export interface SurveyInput extends SurveyTracks {
  /** Masking of the same tracks over the whole passage. */
  readonly sums: MaskingSums
  /** Long-term levels of the mix, sixth octaves, in dB; null leaves balance out. */
  readonly mixLevels: Float64Array | null
  readonly target: BalanceTarget
}

/** The trial on which moves are run. */
interface OnTrial {
  readonly masked: readonly MaskingTrack[]
  readonly trial: Trial
}

/** What findings of tracks, and those of the whole, are looked for in. */
export type TracksContext = SurveyTracks & OnTrial
export type Context = SurveyInput & OnTrial

export function makeContext<I extends SurveyTracks>(input: I): I & OnTrial {
  const masked = input.tracks.map(({ reading, gainDb }) => ({ heard: reading.heard, gainDb }))
  return { ...input, masked, trial: new Trial(masked, input.settings) }
}

/** Coherence from which on two tracks carry one source. */
const ONE_SOURCE = 0.5

/** Whether two tracks carry one source, as two microphones on a drum do. */
export function areOneSource({ tracks }: SurveyTracks, one: number, other: number): boolean {
  const [a, b] = [tracks[one], tracks[other]]
  const pair = alignPair(a.reading.outline, b.reading.outline, b.gainDb - a.gainDb)
  return pair !== null && pair.coherence >= ONE_SOURCE
}

/** Eighths of an octave tell places apart in keys, so that small changes of measure do not. */
export function placeKey(hz: number): number {
  return Math.round(8 * Math.log2(hz))
}

/** A band as a proposed edit; it gets identities when it is made. */
export function bandMove(node: string, stage: StageName, band: EqBand): Edit {
  const chainBand = newChainBand('proposed', band)
  return { kind: 'add-band', node, stage, treatment: null, newTreatment: 'proposed', chainBand }
}

/** A treatment as a proposed edit. */
export function treatmentMove(node: string, treatment: Treatment): Edit {
  return { kind: 'add-treatment', node, treatment, before: null }
}

/** What edits of one sound do to a measure of it. */
export function predict(
  { tracks, trial, mixLevels = null }: TracksContext & Partial<Pick<SurveyInput, 'mixLevels'>>,
  measure: ReadableMeasure,
  moves: readonly Edit[],
): Prediction {
  const { sampleRateHz } = trial
  const sources = { tracks, mixLevels }
  return {
    measure,
    before: readMeasure(measure, sources),
    after: readMeasure(measure, sources, { moves, sampleRateHz }),
  }
}
