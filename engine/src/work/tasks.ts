import type { WavBits } from '@sober-prism/core/audio'
import type { LevellerReading, LevellerSettings } from '@sober-prism/core/dynamics'
import type { CrossoverSpec, CrossoverSum } from '@sober-prism/core/filters'
import type {
  Aside,
  Finding,
  LineUp,
  LineUpPicture,
  LineUpRange,
  LowEndReading,
  MixPart,
  MixPartReading,
  Plan,
  PlanGroup,
  Prediction,
  Ring,
  SourceReading,
  SurveyInput,
  SurveyTracks,
  Tempo,
  YieldProposal,
} from '@sober-prism/core/findings'
import type {
  HearingSettings,
  MaskingSums,
  MaskingTrack,
  Moments,
  TrackPatterns,
} from '@sober-prism/core/hearing'
import type { Normalise, OutputFigures } from '@sober-prism/core/loudness'
import type {
  CorrectionSettings,
  MatchWays,
  PassageReading,
  Profile,
  ProfileTitle,
  SpectrumPair,
} from '@sober-prism/core/match'
import type { MixBed, MixPlan, Stretch } from '@sober-prism/core/mix'
import type { Edit, TrimmedChain } from '@sober-prism/core/session'
import type { CrossSpectrum } from '@sober-prism/core/spectrum'
import type { LevellerParams, Measure } from '@sober-prism/core/treatments'
import type { RecordingAccess } from '../storage/recording-access'
import type { BedTarget } from './fill-bed'
import type { ALIVE } from './life'

/** Recordings by their hash. */
export type RecordingMap = ReadonlyMap<string, RecordingAccess>

/** A mix over a stretch; its designs are made where it is rendered. */
export interface MixInput {
  readonly plan: MixPlan
  readonly recordings: RecordingMap
  readonly sampleRateHz: number
  readonly stretch: Stretch
}

/** Beds of the mix, and the track's level in it. */
export interface BedInput {
  readonly target: BedTarget
  readonly gainDb: number
}

/** One sound through its chain, before fader and pan. */
export interface ChainInput {
  readonly chain: TrimmedChain
  readonly recording: RecordingAccess
  readonly offsetFrames: number
  readonly sampleRateHz: number
  readonly stretch: Stretch
}

/** What a picture over time shows: a recording as it is, behind a chain, or a group or mix. */
export type DrawnSound =
  | ({ readonly of: 'recording' } & Pick<ChainInput, 'recording' | 'offsetFrames'>)
  | ({ readonly of: 'chain' } & Pick<ChainInput, 'recording' | 'offsetFrames' | 'chain'>)
  | ({ readonly of: 'mix' } & Pick<MixInput, 'plan' | 'recordings'>)

/** How a picture over time is drawn. */
export interface SpectrogramView {
  /** Length of the window, a power of two. */
  readonly size: number
  /** Rows over the stretch, the first at its beginning. */
  readonly rows: number
  /** Edges of the ranges of frequency, in Hz. */
  readonly edgesHz: Float64Array
}

/** Rows of a picture over time that are there while the rest is still being made. */
export interface PicturePart {
  readonly fromRow: number
  readonly levels: Float32Array
}

/** Told how much of a piece of work is done; of pictures, what is there of it. */
export type Progress = (share: number, part?: PicturePart) => void

/** What is asked of a picture over time. */
export interface SpectrogramInput extends SpectrogramView {
  readonly sound: DrawnSound
  readonly sampleRateHz: number
  readonly stretch: Stretch
}

/** Two tracks whose sum is looked at, each at its level in it. */
export interface PairInput {
  readonly tracks: readonly [PairedTrack, PairedTrack]
  readonly sampleRateHz: number
  readonly stretch: Stretch
}
export type PairedTrack = Omit<ChainInput, 'sampleRateHz' | 'stretch'> & {
  readonly gain: number
  /** Where the track listens to others: the mix in which its sound is made. */
  readonly mix: Pick<MixInput, 'plan' | 'recordings'> | null
}

/** What is known of the sum of two tracks. */
export interface PairReading {
  /** Of the recordings as they are. */
  readonly cross: CrossSpectrum
  /** Level of each sixth-octave band of both behind their chains, added; in dB. */
  readonly sum: Float64Array
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

/** What a leveller does over a stretch. */
export interface Levelled {
  /** In dB, 0 or below, one for each of equal parts. */
  readonly gainsDb: Float32Array
  readonly beforeLufs: number | null
  readonly afterLufs: number | null
}

/** A file that was written piece by piece, with its figures. */
export interface WrittenFile extends OutputFigures {
  readonly blob: Blob
  /** What it was brought there by; null where it was left as it is. */
  readonly normalised: { readonly gainDb: number; readonly heldByPeak: boolean } | null
}

/** Work that runs off the page's thread: what goes in and what comes out. */
export interface Tasks {
  /** A treated track at its place between left and right; on the way added to beds of the mix, if there are any. */
  track: {
    in: ChainInput & { pan: number; bed: BedInput | null; moments: Moments; rings: readonly Ring[] }
    out: MeasuredTrack
  }
  /** A treated track that flows through groups, behind them; `rings` are those that its own chain leaves. */
  path: { in: MixInput & { moments: Moments; rings: readonly Ring[] }; out: MeasuredTrack }
  /** Fixed resonances of a recording, whatever its chain does. */
  rings: { in: Omit<ChainInput, 'chain'>; out: { rings: Ring[] } }
  /** What goes into a mix or comes out of a group. */
  bus: { in: MixInput; out: Measured }
  /** A part of the mix; `frames` are those of the whole. A bed is brought up to date. */
  mixPart: {
    in: Omit<MixInput, 'stretch'> & { part: MixPart; frames: number; bed: MixBed | null }
    out: MixPartReading
  }
  /** What a heavy treatment needs ready-made. */
  design: {
    in: { kind: string; params: unknown; sampleRateHz: number }
    out: { design: unknown }
  }
  /** Gated loudness of a treated track at its place between left and right. */
  trackLoudness: { in: ChainInput & { pan: number }; out: { lufs: number | null } }
  mixLoudness: { in: MixInput; out: { lufs: number | null } }
  /** A picture of a track over time: levels in ranges of frequency, row by row. */
  spectrogram: { in: SpectrogramInput; out: { levels: Float32Array } }
  /** How the second of two tracks may yield to the first. */
  yielding: { in: PairInput & { readonly aside: Aside }; out: YieldProposal }
  /** What lines the second of two tracks up with the first; null where they do not carry one source. */
  lineUp: {
    in: PairInput & { readonly range: LineUpRange }
    out: { lineUp: LineUp | null; picture: LineUpPicture | null }
  }
  /** What is known of a sound in the long run. */
  profile: {
    in: { sound: DrawnSound; sampleRateHz: number; stretch: Stretch; title: ProfileTitle }
    out: { profile: Profile }
  }
  /** Ways to bring one profile to another. */
  match: { in: { from: Profile; to: Profile; settings: CorrectionSettings }; out: MatchWays }
  /** The same from one published response to another. */
  responses: { in: { pair: SpectrumPair; settings: CorrectionSettings }; out: MatchWays }
  /** How left and right stand to each other below a frequency. */
  lowEnd: {
    in: { sound: DrawnSound; sampleRateHz: number; stretch: Stretch; hz: number }
    out: { reading: LowEndReading }
  }
  /** What the bands of a crossover add up to while none of them is touched. */
  crossoverSum: {
    in: { sound: DrawnSound; sampleRateHz: number; stretch: Stretch; spec: CrossoverSpec }
    out: CrossoverSum
  }
  /** How fast a piece goes; null where nothing recurs evenly. */
  tempo: {
    in: { sound: DrawnSound; sampleRateHz: number; stretch: Stretch }
    out: { tempo: Tempo | null }
  }
  /** How a stretch of a sound stands to the whole, and the one of a length that stands nearest to it. */
  passage: {
    in: {
      sound: DrawnSound
      sampleRateHz: number
      stretch: Stretch
      chosen: Stretch | null
      seconds: number
    }
    out: {
      chosen: PassageReading | null
      proposed: PassageReading | null
      extremes: { quiet: PassageReading; full: PassageReading } | null
    }
  }
  /** The threshold with which a leveller takes just so much at the loudest; null where it cannot. */
  levelling: {
    in: {
      sound: DrawnSound
      sampleRateHz: number
      stretch: Stretch
      settings: Omit<LevellerSettings, 'thresholdDb'>
    }
    out: { thresholdDb: number | null; reading: LevellerReading | null }
  }
  /** What a leveller takes over a stretch, the most of each of `columns` equal parts, and the loudness before and behind it. */
  levelled: {
    in: {
      sound: DrawnSound
      sampleRateHz: number
      stretch: Stretch
      params: LevellerParams
      columns: number
    }
    out: Levelled
  }
  /** What short-time spectra tell of a sound over a stretch, and the rings in it. */
  source: {
    in: { sound: DrawnSound; sampleRateHz: number; stretch: Stretch }
    out: { reading: SourceReading }
  }
  /** How two tracks add up. */
  pair: { in: PairInput; out: PairReading }
  clip: { in: { recording: RecordingAccess; sampleRateHz: number }; out: Measured }
  /** Excitation of a track at its level in the mix. */
  patterns: {
    in: { track: MaskingTrack; settings: HearingSettings }
    out: TrackPatterns
  }
  masking: {
    in: { patterns: readonly TrackPatterns[]; from: number; to: number }
    out: MaskingSums
  }
  /** Findings of tracks by themselves and of pairs; findings of the whole. */
  trackFindings: { in: { survey: SurveyTracks }; out: { findings: Finding[] } }
  mixFindings: { in: { survey: SurveyInput }; out: { findings: Finding[] } }
  /** What edits other than those a finding proposes would do to its measure. */
  predict: {
    in: {
      survey: SurveyTracks & { mixLevels: Float64Array | null }
      measure: Measure
      moves: readonly Edit[]
    }
    out: { prediction: Prediction }
  }
  plan: {
    in: { survey: SurveyInput; findings: readonly Finding[]; groups: readonly PlanGroup[] }
    out: { plan: Plan }
  }
  renderMix: {
    in: MixInput & { bits: WavBits; normalise: Normalise | null }
    out: WrittenFile
  }
  /** `mix` where the track listens to others. */
  renderTrack: {
    in: ChainInput & { bits: WavBits; mix: Pick<MixInput, 'plan' | 'recordings'> | null }
    out: WrittenFile
  }
}
export type TaskName = keyof Tasks

/** Messages between the pool and its workers. */
export type ToWorker =
  | { readonly kind: 'start'; readonly pffft: ArrayBuffer }
  | { readonly kind: 'run'; readonly name: TaskName; readonly input: unknown }
export type FromWorker =
  | typeof ALIVE
  | { readonly kind: 'begun' }
  | { readonly kind: 'progress'; readonly share: number; readonly part?: PicturePart }
  | { readonly kind: 'done'; readonly output: unknown }
  /** `isPlain`: the message is a sentence for people. */
  | { readonly kind: 'failed'; readonly message: string; readonly isPlain: boolean }
