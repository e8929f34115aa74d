import {
  addSums,
  emptySums,
  type HearingSettings,
  type MaskingSums,
  type MaskingTrack,
  maskPatterns,
  type TrackPatterns,
  trackPatterns,
} from '@sober-prism/core/hearing'
import type { NodeKind } from '../analysis/scheduler'
import type { Tools } from '../analysis/tools'
import type { Answerer } from './question'
import { sharePatterns } from './shared-arrays'
import type { Hearing } from './survey'
import type { MeasuredTrack } from './track'

/** Moments of masking per piece of work: long enough to be worth sending, short enough for progress. */
const PIECE = 64
/** Part of the work on masking that excitation patterns are. */
const PATTERNS_SHARE = 0.4

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

export const answerPatterns: Answerer<
  { readonly track: MaskingTrack; readonly settings: HearingSettings },
  TrackPatterns
> = ({ track, settings }) => sharePatterns(trackPatterns(track, settings))

export const answerMasking: Answerer<
  { readonly patterns: readonly TrackPatterns[]; readonly from: number; readonly to: number },
  MaskingSums
> = ({ patterns, from, to }) => maskPatterns(patterns, from, to)
