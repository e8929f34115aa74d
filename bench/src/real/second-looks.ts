import { type Clip, makeClip } from '@sober-prism/core/audio'
import { LEVEL_BANDS, surveyClips, surveyFindings } from '@sober-prism/core/findings'
import { DEFAULT_CALIBRATION, trackMasking } from '@sober-prism/core/hearing'
import { treatClip } from '@sober-prism/core/mix'
import { secondLook } from '@sober-prism/core/second-look'
import {
  applyEdits,
  chainOf,
  DocumentError,
  emptySession,
  newTrack,
  type Session,
  withIdentities,
} from '@sober-prism/core/session'
import { longTermLevels } from '@sober-prism/core/spectrum'
import { MIX } from '@sober-prism/core/treatments'
import { type RealOptions, type RealSession, realReference, realSession } from './session'

/**
 * What a second look says of sessions in which all that findings offer was done: advice that is taken must not be
 * doubted. Each is listed, to be judged by a person.
 */
export async function lookAgain(
  options: Pick<RealOptions, 'band' | 'many'> & { readonly seeds: readonly number[] },
): Promise<void> {
  const references = [901, 902, 903].map((seed) => realReference(options.band, seed))
  const sessions = options.seeds.flatMap((seed) =>
    [references, null].map((against) => ({ seed, against })),
  )
  let all = 0
  for (const { seed, against } of sessions) {
    const real = realSession({ ...options, seed, against })
    const survey = surveyClips(real.tracks)
    const offered = surveyFindings(survey).filter((f) => f.offered)
    let count = 0
    const moves = withIdentities(
      offered.flatMap((f) => f.moves),
      () => `m${++count}`,
      // As where one applies a finding.
      () => ({ reason: 'A finding.', evidence: null }),
    )
    const session = moves.reduce((at, edit) => {
      try {
        return applyEdits(at, [edit])
      } catch (error) {
        if (error instanceof DocumentError) return at
        throw error
      }
    }, documentOf(real))
    const treated = await treatedTracks(real, session)
    const shares = (tracks: RealSession['tracks']) => {
      const { sums } = surveyClips(tracks)
      return new Map(tracks.map((t, i) => [t.id, trackMasking(sums, i).audibleShare]))
    }
    const levels = new Map<string, ArrayLike<number>>(
      treated.map(({ id, clip, gainDb }) => [
        id,
        longTermLevels(clip, LEVEL_BANDS).map((v) => v + gainDb),
      ]),
    )
    levels.set(MIX, longTermLevels(mixOf(treated), LEVEL_BANDS))
    const looks = secondLook({
      session,
      levelsOf: (node) => levels.get(node) ?? null,
      heard: shares(treated),
      heardBare: shares(real.tracks),
      calibration: DEFAULT_CALIBRATION,
    })
    all += looks.length
    console.log(
      `${seed}${against ? ' with faults' : ''}: ${moves.length} moves made, ${looks.length} looked at again`,
    )
    for (const { kind, what, evidence } of looks) console.log(`   ${kind}: ${what} (${evidence})`)
  }
  console.log(`\n${(all / Math.max(1, sessions.length)).toFixed(1)} a session`)
}

function documentOf({ tracks }: RealSession): Session {
  const [{ clip }] = tracks
  const at = '2026-01-01T00:00:00.000Z'
  const empty = emptySession('real', 'Real', at, clip.sampleRateHz)
  const made = tracks.map(({ id, name, role = 'other', clip: own, gainDb }, i) => {
    const audio = {
      hash: i.toString(16).padStart(64, '0'),
      channels: own.channels.length,
      frames: own.frames,
    }
    return { ...newTrack(id, name, role, String.fromCharCode(65 + i), audio), faderDb: gainDb }
  })
  return { ...empty, tracks: made, leadIds: tracks.filter((t) => t.isLead).map((t) => t.id) }
}

/** The tracks through their chains; a key is heard as it came. */
async function treatedTracks(real: RealSession, session: Session): Promise<RealSession['tracks']> {
  const made = []
  for (const track of real.tracks) {
    const treatments = chainOf(session, track.id)?.treatments ?? []
    const keyed = treatments.find((t) => t.key)?.key?.node
    const key = real.tracks.find((t) => t.id === keyed)?.clip
    const clip = treatments.length > 0 ? await treatClip(track.clip, treatments, key) : track.clip
    const faderDb = session.tracks.find((t) => t.id === track.id)?.faderDb ?? track.gainDb
    made.push({ ...track, clip, gainDb: faderDb })
  }
  return made
}

function mixOf(tracks: RealSession['tracks']): Clip {
  const sides = [0, 1].map(() => new Float32Array(tracks[0].clip.frames))
  for (const { clip, gainDb } of tracks) {
    const gain = 10 ** (gainDb / 20)
    sides.forEach((side, s) => {
      const channel = clip.channels[s] ?? clip.channels[0]
      for (let i = 0; i < side.length; i++) side[i] += gain * channel[i]
    })
  }
  return makeClip(tracks[0].clip.sampleRateHz, sides)
}
