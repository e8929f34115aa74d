import type { TrackAudio } from '@sober-prism/core/chain'
import type { Session } from '@sober-prism/core/session'
import { keepSamples, loadSamples } from '../storage/samples'
import { saveSession } from '../storage/sessions'
import { type FileJobOptions, runFileJob } from './jobs'

/** Makes a `.prism` file of a session, with or without its audio. @throws EngineError */
export async function packSession(
  session: Session,
  withAudio: boolean,
  options: FileJobOptions = {},
): Promise<Blob> {
  const audio = new Map<string, TrackAudio>()
  if (withAudio) {
    for (const { audio: ref } of [...session.tracks, ...session.references]) {
      audio.set(ref.hash, await loadSamples(ref))
    }
  }
  return (await runFileJob('pack', { session, audio }, options)).blob
}

/**
 * Reads a `.prism` file, stores it as a session of this browser under a new id (an existing session is
 * never overwritten) and returns it. @throws EngineError; nothing is half-stored as a session.
 */
export async function openSessionFile(file: File, options: FileJobOptions = {}): Promise<Session> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const { session, audio } = await runFileJob(
    'unpack',
    { bytes },
    { ...options, transfer: [bytes.buffer] },
  )
  for (const [hash, channels] of audio) keepSamples(hash, channels)
  const opened = { ...session, id: crypto.randomUUID() }
  await saveSession(opened)
  return opened
}
