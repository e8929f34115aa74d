import type { Session } from '@sober-prism/core/session'
import { type RecordingAccess, RecordingShelf } from '../storage/recording-access'
import { missing } from '../storage/recordings'
import { saveSession } from '../storage/sessions'
import { type FileJobOptions, runFileJob } from './jobs'

/** Makes a `.prism` file of a session, with or without its audio. @throws EngineError */
export async function packSession(
  session: Session,
  withAudio: boolean,
  options: FileJobOptions = {},
): Promise<Blob> {
  const recordings: RecordingAccess[] = []
  if (withAudio) {
    const audios = [...session.tracks, ...session.references].map((t) => t.audio)
    const found = await new RecordingShelf(0).find(audios)
    if (audios.some((a) => !found.has(a.hash))) throw missing()
    recordings.push(...found.values())
  }
  return (await runFileJob('pack', { session, recordings }, options)).blob
}

/** One zip of finished files. @throws EngineError when they are too large for it. */
export async function bundleFiles(
  files: readonly { readonly name: string; readonly blob: Blob }[],
  options: FileJobOptions = {},
): Promise<Blob> {
  const sent = files.map(({ name, blob }) => ({ name, blob }))
  return (await runFileJob('bundle', { files: sent }, options)).blob
}

/**
 * Reads a `.prism` file, stores it as a session of this browser under a new id (an existing session is
 * never overwritten) and returns it. @throws EngineError; nothing is half-stored as a session.
 */
export async function openSessionFile(file: File, options: FileJobOptions = {}): Promise<Session> {
  const { session } = await runFileJob('unpack', { file }, options)
  const opened = { ...session, id: crypto.randomUUID() }
  await saveSession(opened)
  return opened
}
