import { type AudioSource, makeClip } from '@sober-prism/core/audio'
import {
  activityOf,
  DEFAULT_CALIBRATION,
  heardMoments,
  maskTracks,
  midAndSide,
  planMoments,
  trackMasking,
} from '@sober-prism/core/hearing'
import { collectSound, openSound, type Sound, type Stretch, soundOf } from '@sober-prism/core/mix'
import { groupsAbove, type Session } from '@sober-prism/core/session'

/** Share of each track's loudness that is heard in the mix of a session, by the track's id; muted ones are left out. */
export async function heardIn(
  session: Session,
  recordings: ReadonlyMap<string, AudioSource>,
  stretch: Stretch,
): Promise<Map<string, number>> {
  const { sampleRateHz, mix, listening, listeningDbSpl: dbSpl } = session
  const audible = session.tracks.filter(
    (track) => ![track, ...groupsAbove(session, track.id)].some((n) => n.mute),
  )
  const sounding: { id: string; gainDb: number; channels: Float32Array[] }[] = []
  for (const { id, faderDb } of audible) {
    const channels = await soundClip(soundOf(session, id, 'placed'), recordings, stretch)
    if (!channels) continue
    const above = groupsAbove(session, id).reduce((sum, g) => sum + g.faderDb, mix.faderDb)
    sounding.push({ id, gainDb: faderDb + above, channels })
  }
  const activities = sounding.map((t) => activityOf(t.channels))
  const moments = planMoments(sampleRateHz, stretch.toFrame - stretch.fromFrame, activities)
  const masked = sounding.map(({ channels, gainDb }) => ({
    heard: heardMoments(midAndSide(channels), sampleRateHz, moments),
    gainDb,
  }))
  const calibration = { ...DEFAULT_CALIBRATION, dbSpl }
  const sums = maskTracks(masked, { calibration, mode: 'stereo', listening })
  return new Map(sounding.map(({ id }, i) => [id, trackMasking(sums, i).audibleShare]))
}

/** The samples of a sound over a stretch; null where there is none. */
async function soundClip(
  sound: Sound | null,
  recordings: ReadonlyMap<string, AudioSource>,
  stretch: Stretch,
): Promise<Float32Array[] | null> {
  return sound && collectSound(openSound(sound, recordings, stretch), stretch)
}

/** The same as a clip. */
export async function clipOf(
  session: Session,
  sound: Sound | null,
  recordings: ReadonlyMap<string, AudioSource>,
  stretch: Stretch,
) {
  const channels = await soundClip(sound, recordings, stretch)
  return channels && makeClip(session.sampleRateHz, channels)
}
