import { type Clip, makeClip } from '../audio'
import {
  activityOf,
  DEFAULT_CALIBRATION,
  type HearingSettings,
  maskTracks,
  planMoments,
} from '../hearing'
import { panGains } from '../mix'
import type { Role } from '../session'
import { longTermLevels } from '../spectrum'
import { referenceTarget, slopeTarget } from './balance/balance'
import { LEVEL_BANDS } from './level-bands'
import { readSource } from './source/source-reading'
import type { SurveyInput } from './survey-input'

/** One track of a session that is surveyed in one go. */
export interface ClipTrack {
  readonly id: string
  readonly clip: Clip
  readonly gainDb: number
  readonly isLead: boolean
  /** What it carries; `other` where that is not known. */
  readonly role?: Role
}

/** Over loudspeakers, both channels, at the usual level. */
export const USUAL_HEARING: HearingSettings = {
  calibration: DEFAULT_CALIBRATION,
  mode: 'stereo',
  listening: 'speakers',
}

/**
 * Surveys clips of one rate from the same start: everything that the app does in pieces, at once.
 * @param references finished recordings of any rate; without any, a slope is the target.
 */
export function surveyClips(
  tracks: readonly ClipTrack[],
  references: readonly Clip[] = [],
  hearing: Partial<HearingSettings> = {},
): SurveyInput {
  const settings = { ...USUAL_HEARING, ...hearing }
  const longest = tracks.reduce((most, t) => Math.max(most, t.clip.frames), 0)
  const { sampleRateHz } = tracks[0].clip
  const activities = tracks.map((t) => activityOf(t.clip.channels))
  const moments = planMoments(sampleRateHz, longest, activities)
  const read = tracks.map(({ id, clip, gainDb, isLead, role = 'other' }) => ({
    id,
    reading: readSource(clip, longest, moments),
    gainDb,
    faderDb: gainDb,
    isLead,
    role,
  }))
  const masked = read.map(({ reading, gainDb }) => ({ heard: reading.heard, gainDb }))
  return {
    tracks: read,
    sums: maskTracks(masked, settings),
    mixLevels: longTermLevels(mixOf(tracks), LEVEL_BANDS),
    target:
      references.length > 0
        ? referenceTarget(references.map((clip) => longTermLevels(clip, LEVEL_BANDS)))
        : slopeTarget(),
    settings: { ...settings, sampleRateHz },
  }
}

function mixOf(tracks: readonly ClipTrack[]): Clip {
  const frames = tracks.reduce((most, t) => Math.max(most, t.clip.frames), 0)
  const sides = [new Float32Array(frames), new Float32Array(frames)]
  for (const { clip, gainDb } of tracks) {
    const gains = panGains(0, clip.channels.length)
    sides.forEach((out, side) => {
      const channel = clip.channels[clip.channels.length === 1 ? 0 : side]
      const gain = gains[side] * 10 ** (gainDb / 20)
      for (let i = 0; i < channel.length; i++) out[i] += channel[i] * gain
    })
  }
  return makeClip(tracks[0].clip.sampleRateHz, sides)
}
