import type { Ring, SurveyTracks } from '@sober-prism/core/findings'
import type { HearingSettings } from '@sober-prism/core/hearing'
import type { Role } from '@sober-prism/core/session'
import type { Tools } from '../analysis/tools'
import type { MeasuredTrack } from './track'

/** How tracks are heard. */
export interface Hearing extends HearingSettings {
  readonly sampleRateHz: number
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

const NO_RINGS: readonly Ring[] = []

/** The tracks of a session as findings see them; without rings where they are not looked for yet. */
export function surveyTracks(
  measured: readonly MeasuredTrack[],
  { tracks, calibration, mode, listening, sampleRateHz }: SurveySettings,
): SurveyTracks {
  return {
    tracks: tracks.map((track, i) => ({
      ...track,
      reading: { rings: NO_RINGS, ...measured[i].reading },
    })),
    settings: { calibration, mode, listening, sampleRateHz },
  }
}
