import {
  type BalanceTarget,
  type Finding,
  joinMixParts,
  type MixReading,
  mixParts,
  type Ring,
  ringsBehind,
  type SurveyInput,
  type SurveyTracks,
} from '@sober-prism/core/findings'
import {
  addSums,
  emptySums,
  type HearingSettings,
  type MaskingSums,
  type MaskingTrack,
  type Moments,
  type TrackPatterns,
} from '@sober-prism/core/hearing'
import { isPlain, type MixPlan, type NodePlan, type Stretch } from '@sober-prism/core/mix'
import type { Role, TrimmedChain } from '@sober-prism/core/session'
import { respondChain } from '@sober-prism/core/treatments'
import { isCancel } from '../engine-error'
import type { RecordingAccess } from '../storage/recording-access'
import type { Measured, MeasuredTrack, RecordingMap } from '../work/tasks'
import type { WorkerPool } from '../work/worker-pool'
import type { BedFilling, MixBeds } from './mix-beds'
import type { NodeKind } from './scheduler'

/** What nodes work with; it changes no result. */
export interface Tools {
  readonly pool: WorkerPool
  readonly beds: MixBeds
}

/** How tracks are heard. */
export interface Hearing extends HearingSettings {
  readonly sampleRateHz: number
}

/** Moments of masking per piece of work: long enough to be worth sending, short enough for progress. */
const PIECE = 64
/** Part of the work on masking that excitation patterns are. */
const PATTERNS_SHARE = 0.4
/** Tenths of a second by which parts of the mix overlap: filters of the mix's own chain reach far. */
const MIX_MARGIN_STEPS = { plain: 2, treated: 10 } as const

interface TrackSettings extends Tools {
  readonly chain: TrimmedChain
  readonly recording: RecordingAccess
  readonly pan: number
  readonly offsetFrames: number
  readonly sampleRateHz: number
  readonly stretch: Stretch
  /** When all tracks are listened to. */
  readonly moments: Moments
  /** The way through groups that do something to it; null where there is none. */
  readonly path: { readonly plan: MixPlan; readonly recordings: RecordingMap } | null
  /** Beds of the mix to which it is added on the way, with its place in the mix's plan; it changes no result. */
  readonly fill: { readonly filling: BedFilling; readonly track: NodePlan } | null
}

type RingSettings = Tools &
  Pick<TrackSettings, 'recording' | 'offsetFrames' | 'sampleRateHz' | 'stretch'>

/** Rings of a recording: they are the same however its chain grows, and looked for once. */
export const ringsNode: NodeKind<RingSettings, readonly [], readonly Ring[]> = {
  name: 'rings',
  version: 1,
  label: 'Measuring tracks and mix',
  keep: 'stored',
  async run(_, { pool, beds: _beds, ...input }, { signal, onProgress }) {
    return (await pool.run('rings', input, { queueSignal: signal, onProgress })).rings
  },
}

/** A track through its chain, and through those of its groups. */
export const trackNode: NodeKind<TrackSettings, readonly [readonly Ring[]], MeasuredTrack> = {
  name: 'track',
  version: 20,
  label: 'Measuring tracks and mix',
  keep: 'stored',
  async run([recorded], { pool, beds: _beds, path, fill, ...settings }, { signal, onProgress }) {
    const { chain, sampleRateHz, stretch, moments } = settings
    const response = respondChain(chain.treatments, sampleRateHz, 'mid')
    const rings = ringsBehind(recorded, (hz) => response.db(hz))
    const input = { ...settings, rings }
    const options = { queueSignal: signal, onProgress, followed: true }
    if (fill && !path) {
      const { filling, track } = fill
      const bed = { target: filling.target, gainDb: track.faderDb }
      try {
        const measured = await pool.run('track', { ...input, bed }, { ...options, retry: false })
        filling.add(track)
        return measured
      } catch (error) {
        // What was given up had not begun; anything else may have left half of it in the beds.
        if (isCancel(error)) throw error
        filling.spoil()
      }
    }
    if (!path) return pool.run('track', { ...input, bed: null }, options)
    return pool.run('path', { ...path, sampleRateHz, stretch, moments, rings }, options)
  },
}

interface MixSettings extends Tools {
  readonly plan: MixPlan
  readonly recordings: RecordingMap
  readonly sampleRateHz: number
  readonly stretch: Stretch
  /** What besides the plan the beds of its parts depend on. */
  readonly bedKey: string
}

/** The beds that a mix is rendered over. */
export function mixBeds({
  plan,
  sampleRateHz,
  stretch: { fromFrame, toFrame },
  bedKey,
}: Pick<MixSettings, 'plan' | 'sampleRateHz' | 'stretch' | 'bedKey'>) {
  const mix = plan.nodes[plan.nodes.length - 1]
  const margin = isPlain(mix) ? MIX_MARGIN_STEPS.plain : MIX_MARGIN_STEPS.treated
  const parts = mixParts(fromFrame, toFrame, sampleRateHz, margin)
  return { key: `${bedKey} ${margin}`, parts, frames: toFrame - fromFrame }
}

/** The mix, rendered and measured in parts by whichever worker is free. */
export const mixNode: NodeKind<MixSettings, readonly [], MixReading> = {
  name: 'mix',
  version: 7,
  label: 'Measuring tracks and mix',
  keep: 'stored',
  async run(_, settings, { signal, onProgress }) {
    const { pool, beds, plan, recordings, sampleRateHz, stretch, bedKey } = settings
    const { key, parts, frames } = mixBeds({ plan, sampleRateHz, stretch, bedKey })
    let done = 0
    const readings = await Promise.all(
      parts.map(async (part) => {
        const input = { plan, recordings, sampleRateHz, part, frames }
        const reading = await beds
          // What broke off may have left the bed half-way: it is not tried again over that.
          .use(key, part, frames, plan, (bed) =>
            pool.run('mixPart', { ...input, bed }, { queueSignal: signal, retry: false }),
          )
          .catch((error: unknown) => {
            if (isCancel(error)) throw error
            return pool.run('mixPart', { ...input, bed: null }, { queueSignal: signal })
          })
        onProgress(++done / parts.length)
        return reading
      }),
    )
    return joinMixParts(readings, sampleRateHz)
  },
}

/** What comes out of a group. */
export const groupNode: NodeKind<Omit<MixSettings, 'bedKey'>, readonly [], Measured> = {
  name: 'group',
  version: 2,
  label: 'Measuring groups',
  keep: 'stored',
  run(_, { pool, beds: _beds, ...input }, { signal, onProgress }) {
    return pool.run('bus', input, { queueSignal: signal, onProgress })
  },
}

interface ReferenceSettings extends Tools {
  readonly recording: RecordingAccess
  readonly sampleRateHz: number
}

/** A reference as a whole. */
export const referenceNode: NodeKind<ReferenceSettings, readonly [], Measured> = {
  name: 'reference',
  version: 6,
  label: 'Measuring references',
  keep: 'stored',
  run(_, { pool, recording, sampleRateHz }, { signal }) {
    return pool.run('clip', { recording, sampleRateHz }, { queueSignal: signal })
  },
}

interface PatternSettings extends Tools, Hearing {
  readonly gainDb: number
}

/** Excitation of a track at its level in the mix; after a move most tracks have theirs still. */
export const patternsNode: NodeKind<PatternSettings, readonly [MeasuredTrack], TrackPatterns> = {
  name: 'patterns',
  version: 8,
  label: 'Masking',
  keep: 'at-hand',
  run([track], { pool, gainDb, calibration, mode, listening }, { signal }) {
    const masking: MaskingTrack = { heard: track.reading.heard, gainDb }
    return pool.run(
      'patterns',
      { track: masking, settings: { calibration, mode, listening } },
      { queueSignal: signal, first: true, followed: true },
    )
  },
}

/** Masking: all patterns against each other, in pieces of time. */
export const maskingNode: NodeKind<Tools, readonly TrackPatterns[], MaskingSums> = {
  name: 'masking',
  version: 8,
  label: 'Masking',
  keep: 'stored',
  async run(patterns, { pool }, { signal, onProgress }) {
    const moments = patterns[0]?.moments.at.length ?? 0
    const total = emptySums(patterns)
    let done = 0
    const pieces: Promise<void>[] = []
    for (let from = 0; from < moments; from += PIECE) {
      const to = Math.min(moments, from + PIECE)
      const piece = pool.run(
        'masking',
        { patterns, from, to },
        { queueSignal: signal, first: true },
      )
      pieces.push(
        piece.then((part) => {
          addSums(total, part)
          done += to - from
          onProgress(PATTERNS_SHARE + ((1 - PATTERNS_SHARE) * done) / moments)
        }),
      )
    }
    await Promise.all(pieces)
    return total
  },
}

export interface SurveySettings extends Tools, Hearing {
  /** In the order of the tracks that are its inputs. */
  readonly tracks: readonly {
    readonly id: string
    readonly gainDb: number
    readonly faderDb: number
    readonly isLead: boolean
    readonly role: Role
  }[]
}

/** The tracks of a session as findings see them. */
export function surveyTracks(
  measured: readonly MeasuredTrack[],
  { tracks, calibration, mode, listening, sampleRateHz }: SurveySettings,
): SurveyTracks {
  return {
    tracks: tracks.map((track, i) => ({ ...track, reading: measured[i].reading })),
    settings: { calibration, mode, listening, sampleRateHz },
  }
}

/** What tracks have by themselves, and pairs that carry one source. */
export const trackFindingsNode: NodeKind<SurveySettings, readonly MeasuredTrack[], Finding[]> = {
  name: 'track findings',
  version: 13,
  label: 'Listening to each track',
  keep: 'stored',
  async run(measured, settings, { signal }) {
    const survey = surveyTracks(measured, settings)
    const { findings } = await settings.pool.run(
      'trackFindings',
      { survey },
      { queueSignal: signal },
    )
    return findings
  },
}

export interface MixFindingsSettings extends SurveySettings {
  readonly target: BalanceTarget
}

/** Balance of the mix, pile-ups, and who covers whom: masking first, then the mix, then the tracks. */
export const mixFindingsNode: NodeKind<
  MixFindingsSettings,
  readonly [MaskingSums, MixReading, ...MeasuredTrack[]],
  Finding[]
> = {
  name: 'mix findings',
  version: 15,
  label: 'Testing moves',
  keep: 'stored',
  async run([sums, mix, ...measured], settings, { signal, onProgress }) {
    const survey: SurveyInput = {
      ...surveyTracks(measured, settings),
      sums,
      mixLevels: mix.levels,
      target: settings.target,
    }
    const { findings } = await settings.pool.run(
      'mixFindings',
      { survey },
      { queueSignal: signal, onProgress },
    )
    return findings
  },
}
