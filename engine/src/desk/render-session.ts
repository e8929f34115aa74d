import type { WavBits } from '@sober-prism/core/audio'
import { type DeliverableChoice, deliverables } from '@sober-prism/core/mix'
import { type Session, sessionFrames } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import type { WrittenFile } from '../questions/render'
import { RecordingShelf } from '../storage/recording-access'
import type { RunOptions, WorkerPool } from '../work/worker-pool'

/** A finished file. */
export interface RenderedFile extends WrittenFile {
  readonly name: string
}

export interface RenderChoice extends DeliverableChoice {
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
  const { tracks } = session
  const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
  const recordings = await shelf.find(tracks.map((t) => t.audio))
  const missing = tracks.find((t) => !recordings.has(t.audio.hash))
  if (missing) {
    throw new EngineError(`The audio of ${missing.name} is not in this browser. Import it again.`)
  }
  const wanted = deliverables(session, choice, { ending: '.wav', apart: true })
  const jobs = wanted.map(({ what, name, file, sound }): Job => {
    // Stems stay as they are: they are to add up.
    const normalise = what === 'mix' ? session.normalise : null
    const input = { sound, recordings, stretch, bits: choice.bits, normalise }
    return { what: name, name: file, run: (options) => pool.run('render', input, options) }
  })
  return runAll(jobs, onProgress, signal)
}

interface Job {
  readonly what: string
  readonly name: string
  run(options: RunOptions): Promise<WrittenFile>
}

/** Runs jobs beside each other, as many as the pool has workers; their files keep their order. */
function runAll(
  jobs: readonly Job[],
  onProgress: (what: string, share: number) => void,
  signal: AbortSignal,
): Promise<RenderedFile[]> {
  const shares = jobs.map(() => 0)
  const show = (index: number, share: number) => {
    shares[index] = share
    const current = jobs.find((_, i) => shares[i] < 1)
    onProgress(current?.what ?? 'Finishing', shares.reduce((a, b) => a + b, 0) / jobs.length)
  }
  return Promise.all(
    jobs.map(async ({ name, run }, index) => {
      const made = await run({ signal, onProgress: (share) => show(index, share) })
      show(index, 1)
      return { ...made, name }
    }),
  )
}
