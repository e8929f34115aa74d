import { type Clip, makeClip, resample } from '@sober-prism/core/audio'
import type { ClipTrack } from '@sober-prism/core/findings'
import { collectSound, openSound, soundOf } from '@sober-prism/core/mix'
import { groupsAbove, guessRole, sessionFrames } from '@sober-prism/core/session'
import { FileError } from './cli-error'
import { cutSeconds, readClip } from './files'
import { openRecordings, openSession } from './session-files'

/** The sounds of a session in which findings are looked for. */
export interface FindingsInput {
  readonly names: readonly string[]
  readonly tracks: readonly ClipTrack[]
  readonly references: readonly Clip[]
}

export interface Stretch {
  readonly from: number | undefined
  readonly to: number | undefined
}

/** Audio files as tracks of one session, from the same start. @throws FileError */
export async function readTracks(
  cwd: string,
  files: readonly string[],
  leads: readonly string[],
  { from, to }: Stretch,
  progress: (text: string) => void,
): Promise<Omit<FindingsInput, 'references'>> {
  const clips: Clip[] = []
  for (const file of files) {
    progress(`reading ${file}`)
    clips.push(cutSeconds(await readClip(cwd, file), file, from, to))
  }
  const rate = Math.max(...clips.map((c) => c.sampleRateHz))
  const tracks = clips.map((clip, i) => ({
    id: String(i),
    clip: resample(clip, rate),
    gainDb: 0,
    isLead: leads.includes(files[i]),
    role: guessRole(files[i]),
  }))
  return { names: files, tracks }
}

/**
 * The tracks of a `.prism` file as they sound in its mix: through their chains and those of their groups, at their
 * levels; muted ones are left out.
 * @throws FileError
 */
export async function readSessionTracks(
  cwd: string,
  file: string,
  { from, to }: Stretch,
  progress: (text: string) => void,
): Promise<FindingsInput> {
  const opened = await openSession(cwd, file)
  try {
    const { session } = opened
    const { sampleRateHz, mix } = session
    const audible = session.tracks.filter(
      (track) => ![track, ...groupsAbove(session, track.id)].some((n) => n.mute),
    )
    if (audible.length === 0) throw new FileError(file, 'no track of the session sounds')
    const recordings = await openRecordings(opened, file, [
      ...session.tracks,
      ...session.references,
    ])
    const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
    const tracks: ClipTrack[] = []
    for (const { id, name, role, faderDb } of audible) {
      progress(`rendering ${name}`)
      const sound = soundOf(session, id, 'placed')
      if (!sound) continue
      const channels = await collectSound(openSound(sound, recordings, stretch), stretch)
      const clip = makeClip(sampleRateHz, channels)
      const gainDb = groupsAbove(session, id).reduce(
        (sum, g) => sum + g.faderDb,
        faderDb + mix.faderDb,
      )
      const isLead = session.leadIds.includes(id)
      tracks.push({
        id: String(tracks.length),
        clip: cutSeconds(clip, name, from, to),
        gainDb,
        isLead,
        role,
      })
    }
    const references: Clip[] = []
    for (const { id, audio } of session.references) {
      const sound = soundOf(session, id, 'recorded')
      if (!sound) continue
      const whole = { fromFrame: 0, toFrame: audio.frames }
      const channels = await collectSound(openSound(sound, recordings, whole), whole)
      references.push(makeClip(sampleRateHz, channels))
    }
    return { names: audible.map((t) => t.name), tracks, references }
  } finally {
    await opened.close()
  }
}
