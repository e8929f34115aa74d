import type { WavBits } from '@sober-prism/core/audio'
import { designLater, renderPlan, stemPlan, withoutSilent } from '@sober-prism/core/mix'
import { type Session, sessionFrames } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { RecordingShelf } from '../storage/recording-access'
import type { WrittenFile } from '../work/tasks'
import type { WorkerPool } from '../work/worker-pool'

/** A finished file. */
export interface RenderedFile extends WrittenFile {
  readonly name: string
}

export interface RenderChoice {
  readonly mix: boolean
  /** Each track through its chain, before fader and pan. */
  readonly tracks: boolean
  /** Each group behind its fader and pan. */
  readonly groups: boolean
  readonly bits: WavBits
}

/**
 * Renders the whole session: the mix, each track through its chain before fader and pan, and each group behind
 * its own, all from the session's start and of its length.
 * @throws EngineError; an aborted `signal` gives its reason.
 */
export async function renderSession(
  session: Session,
  choice: RenderChoice,
  pool: WorkerPool,
  onProgress: (what: string, share: number) => void,
  signal: AbortSignal,
  shelf = new RecordingShelf(),
): Promise<RenderedFile[]> {
  const { sampleRateHz, tracks, groups } = session
  const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
  const recordings = await shelf.find(tracks.map((t) => t.audio))
  const missing = tracks.find((t) => !recordings.has(t.audio.hash))
  if (missing) {
    throw new EngineError(`The audio of ${missing.name} is not in this browser; bring it in again.`)
  }
  const plan = renderPlan(session, designLater)
  const files: RenderedFile[] = []
  const steps =
    (choice.mix ? 1 : 0) + (choice.tracks ? tracks.length : 0) + (choice.groups ? groups.length : 0)
  const follow = (what: string) => {
    onProgress(what, files.length / steps)
    return {
      signal,
      onProgress: (share: number) => onProgress(what, (files.length + share) / steps),
    }
  }
  const input = { recordings, sampleRateHz, stretch, bits: choice.bits }
  const title = fileName(session.name)
  if (choice.mix) {
    const made = await pool.run('renderMix', { ...input, plan }, follow('Mix'))
    files.push({ ...made, name: `${title}.wav` })
  }
  for (const group of choice.groups ? groups : []) {
    const stem = withoutSilent(stemPlan(plan, group.id))
    const made = await pool.run('renderMix', { ...input, plan: stem }, follow(group.name))
    files.push({ ...made, name: `${title} ${group.letter} ${fileName(group.name)}.wav` })
  }
  for (const track of choice.tracks ? tracks : []) {
    const recording = recordings.get(track.audio.hash)
    if (!recording) continue
    const made = await pool.run(
      'renderTrack',
      { ...input, chain: track.chain, recording, offsetFrames: track.offsetFrames },
      follow(track.name),
    )
    files.push({ ...made, name: `${title} ${track.letter} ${fileName(track.name)}.wav` })
  }
  return files
}

/** A name that every file system takes. */
export function fileName(name: string): string {
  const kept = name.replace(/[^\p{L}\p{N} _-]/gu, '_').trim()
  return kept === '' ? 'untitled' : kept
}
