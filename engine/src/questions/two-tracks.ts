import { type Clip, dbToAmplitude, makeClip, scaled } from '@sober-prism/core/audio'
import { type Sound, type Stretch, soundOf } from '@sober-prism/core/mix'
import { clipOf } from './open-input'
import { type Asking, type RecordingMap, wholeOf } from './question'

/** A track before its chain and behind it, and its level in the mix. */
interface PairedTrack {
  readonly recorded: Sound
  readonly treated: Sound
  /** Of its fader, as an amplitude. */
  readonly gain: number
}

/** Two tracks whose sum is looked at. */
export interface TwoTracks {
  readonly tracks: readonly [PairedTrack, PairedTrack]
  readonly recordings: RecordingMap
  readonly stretch: Stretch
}

/** Two tracks over the beginning of the passage; null where either or its audio is missing. */
export async function twoTracks(
  asking: Asking,
  ids: readonly [string, string],
  mostSeconds: number,
): Promise<TwoTracks | null> {
  const { session } = asking
  const [first, second] = ids.map((id): PairedTrack | null => {
    const track = session.tracks.find((t) => t.id === id)
    const [recorded, treated] = [soundOf(session, id, 'recorded'), soundOf(session, id, 'chain')]
    return track && recorded && treated
      ? { recorded, treated, gain: dbToAmplitude(track.faderDb) }
      : null
  })
  if (!first || !second) return null
  const sounds = [first, second].flatMap((t) => [t.recorded, t.treated])
  const recordings = await asking.find(...sounds)
  if (!recordings) return null
  const { fromFrame, toFrame } = wholeOf(session)
  const end = Math.min(toFrame, fromFrame + mostSeconds * session.sampleRateHz)
  return { tracks: [first, second], recordings, stretch: { fromFrame, toFrame: end } }
}

/** Both behind their chains, with what they listen to, at their levels. */
export async function clipsOfBoth(input: TwoTracks): Promise<readonly [Clip, Clip]> {
  const [first, second] = input.tracks
  return [await atLevel(first, input), await atLevel(second, input)]
}

async function atLevel(
  { treated, gain }: PairedTrack,
  { recordings, stretch }: TwoTracks,
): Promise<Clip> {
  const { sampleRateHz, channels } = await clipOf({ sound: treated, recordings, stretch })
  return makeClip(
    sampleRateHz,
    channels.map((channel) => scaled(channel, gain)),
  )
}
