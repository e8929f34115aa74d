import type { WavBits } from '@sober-prism/core/audio'
import type { MixBed, MixPlan, Stretch, TrackAudio } from '@sober-prism/core/chain'
import type { PhasePlan } from '@sober-prism/core/filters'
import type {
  Finding,
  Measure,
  MixPart,
  MixPartReading,
  Plan,
  Prediction,
  ProposedMove,
  SourceReading,
  SurveyInput,
  SurveyTracks,
} from '@sober-prism/core/findings'
import type {
  Calibration,
  MaskingMode,
  MaskingSums,
  MaskingTrack,
  TrackPatterns,
} from '@sober-prism/core/hearing'
import type { Chain } from '@sober-prism/core/session'

/** What the mix is made of; audio in shared memory. */
export interface MixInput {
  readonly plan: MixPlan
  readonly audio: ReadonlyMap<string, TrackAudio>
  readonly sampleRateHz: number
  readonly stretch: Stretch
}

/** One treated track. */
export interface TrackInput {
  readonly chain: Chain
  readonly audio: TrackAudio
  readonly pan: number
  readonly offsetFrames: number
  readonly sampleRateHz: number
  readonly stretch: Stretch
}

/** Level over frequency and loudness of a stretch. */
export interface Measured {
  /** Level of each sixth-octave band in dB. */
  readonly levels: Float64Array
  readonly lufs: number | null
}

/** A treated track by itself: what is shown of it and what findings need. */
export interface MeasuredTrack extends Measured {
  readonly reading: SourceReading
}

/** Work that runs off the page's thread: what goes in and what comes out. */
export interface Tasks {
  track: { in: TrackInput; out: MeasuredTrack }
  /** A part of the mix; `frames` are those of the whole. A bed is brought up to date. */
  mixPart: {
    in: Omit<MixInput, 'stretch'> & { part: MixPart; frames: number; bed: MixBed | null }
    out: MixPartReading
  }
  /** FIR kernels of a chain's phase mode. */
  kernels: { in: { chain: Chain; sampleRateHz: number }; out: { kernels: PhasePlan | null } }
  /** Loudness of the mix with some moves passed by. */
  mixLoudness: { in: MixInput & { bypass: 'none' | 'all' | string }; out: { lufs: number | null } }
  clip: { in: { audio: TrackAudio; sampleRateHz: number }; out: Measured }
  overview: {
    in: MixInput & { buckets: number }
    out: { low: Float32Array; high: Float32Array }
  }
  /** Excitation of a track at its level in the mix. */
  patterns: {
    in: { track: MaskingTrack; calibration: Calibration; mode: MaskingMode }
    out: TrackPatterns
  }
  masking: {
    in: { patterns: readonly TrackPatterns[]; from: number; to: number }
    out: MaskingSums
  }
  /** Findings of tracks by themselves and of pairs; findings of the whole. */
  trackFindings: { in: { survey: SurveyTracks }; out: { findings: Finding[] } }
  mixFindings: { in: { survey: SurveyInput }; out: { findings: Finding[] } }
  /** What moves other than those a finding proposes would do to its measure. */
  predict: {
    in: {
      survey: SurveyTracks & { mixLevels: Float64Array | null }
      measure: Measure
      moves: readonly ProposedMove[]
    }
    out: { prediction: Prediction }
  }
  plan: { in: { survey: SurveyInput; findings: readonly Finding[] }; out: { plan: Plan } }
  renderMix: {
    in: MixInput & { bits: WavBits }
    out: { bytes: Uint8Array<ArrayBuffer>; lufs: number | null; truePeakDbtp: number | null }
  }
  renderTrack: {
    in: TrackInput & { bits: WavBits }
    out: { bytes: Uint8Array<ArrayBuffer>; lufs: number | null; truePeakDbtp: number | null }
  }
}
export type TaskName = keyof Tasks

/** Messages between the pool and its workers. */
export type ToWorker =
  | { readonly kind: 'start'; readonly pffft: ArrayBuffer }
  | { readonly kind: 'run'; readonly name: TaskName; readonly input: unknown }
export type FromWorker =
  | { readonly kind: 'progress'; readonly share: number }
  | { readonly kind: 'done'; readonly output: unknown }
  | { readonly kind: 'failed'; readonly message: string }
