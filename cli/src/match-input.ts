import {
  type Profile,
  ProfileError,
  ProfileMeter,
  type ProfileTitle,
} from '@sober-prism/core/match'
import { DocumentError, parseProfile } from '@sober-prism/core/session'
import { openAudio, piecesOf } from './audio-file'
import { FileError } from './cli-error'
import { readText } from './files'
import type { Surroundings } from './run'

/** Measures the profile of a sound. @throws FileError when it is too short or silent. */
export async function profileOf(
  { cwd, progress }: Surroundings,
  file: string,
  title: ProfileTitle,
): Promise<Profile> {
  const audio = await openAudio(cwd, file)
  try {
    const { sampleRateHz, channels, frames } = audio
    const meter = new ProfileMeter(sampleRateHz, Math.min(2, channels))
    let done = 0
    for await (const piece of piecesOf(audio, 0, frames)) {
      meter.add(piece.slice(0, 2))
      done += piece[0].length
      progress(`listening ${Math.round((100 * done) / frames)} %`)
    }
    return meter.read(title)
  } catch (error) {
    if (error instanceof ProfileError) throw new FileError(file, error.message)
    throw error
  } finally {
    await audio.close()
  }
}

/** A profile from a profile file, or measured from a sound. @throws FileError */
export async function readTarget(around: Surroundings, file: string): Promise<Profile> {
  if (!/\.json$/i.test(file)) return profileOf(around, file, { name: titleOf(file) })
  try {
    return parseProfile(await readText(around.cwd, file))
  } catch (error) {
    if (error instanceof DocumentError) throw new FileError(file, error.message)
    throw error
  }
}

/** A file's name without folders and ending. */
export function titleOf(file: string): string {
  const base = file.split(/[\\/]/).at(-1) ?? file
  return base.replace(/\.[^.]+$/, '').slice(0, 200) || 'Recording'
}
