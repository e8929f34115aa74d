import type { MaskingSums, MaskingTrack } from '../hearing'
import type { EqBand } from '../session'
import type { BalanceTarget } from './balance'
import type { Owner, Prediction, ProposedMove } from './finding'
import { type ReadableMeasure, readMeasure } from './measure'
import type { SourceReading } from './source-reading'
import { Trial, type TrialSettings } from './trial'

/** One track as findings see it. */
export interface SurveyTrack {
  readonly reading: SourceReading
  /** Gain at which it stands in the mix, in dB. */
  readonly gainDb: number
  /** Whether others make room for it. */
  readonly isLead: boolean
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
  const masked = input.tracks.map(({ reading, gainDb }) => ({ bands: reading.bands, gainDb }))
  return { ...input, masked, trial: new Trial(masked, input.settings) }
}

/** Eighths of an octave tell places apart in keys, so that small changes of measure do not. */
export function placeKey(hz: number): number {
  return Math.round(8 * Math.log2(hz))
}

export function bandMove(
  owner: Owner,
  stage: 'clean' | 'fit' | 'shape',
  band: EqBand,
): ProposedMove {
  return { kind: 'band', owner, stage, band }
}

/** What filters on one sound do to a measure of it. */
export function predict(
  { tracks, trial, mixLevels = null }: TracksContext & Partial<Pick<SurveyInput, 'mixLevels'>>,
  measure: ReadableMeasure,
  owner: Owner,
  bands: readonly EqBand[],
): Prediction {
  const { sampleRateHz } = trial
  return {
    measure,
    before: readMeasure(measure, { tracks, mixLevels }),
    after: readMeasure(measure, { tracks, mixLevels }, { owner, bands, sampleRateHz }),
  }
}
