import type { WavBits } from '@sober-prism/core/audio'
import {
  designLater,
  fileNames,
  isKeyed,
  renderPlan,
  stemPlan,
  trackPlan,
  withoutSilent,
} from '@sober-prism/core/mix'
import { type Session, sessionFrames, trimmedChain } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { RecordingShelf } from '../storage/recording-access'
import type { WrittenFile } from '../work/tasks'
import type { RunOptions, WorkerPool } from '../work/worker-pool'

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
    throw new EngineError(`The audio of ${missing.name} is not in this browser. Import it again.`)
  }
  const plan = renderPlan(session, designLater)
  const input = { recordings, sampleRateHz, stretch, bits: choice.bits }
  const jobs: Job[] = []
  const named = ({ letter, name }: { letter: string; name: string }) =>
    `${session.name} ${letter} ${name}`
  if (choice.mix) {
    const { normalise } = session
    const run = (options: RunOptions) =>
      pool.run('renderMix', { ...input, plan, normalise }, options)
    jobs.push({ what: 'Mix', name: session.name, run })
  }
  for (const group of choice.groups ? groups : []) {
    const stem = withoutSilent(stemPlan(plan, group.id))
    const run = (options: RunOptions) =>
      pool.run('renderMix', { ...input, plan: stem, normalise: null }, options)
    jobs.push({ what: group.name, name: named(group), run })
  }
  for (const track of choice.tracks ? tracks : []) {
    const recording = recordings.get(track.audio.hash)
    if (!recording) continue
    const { offsetFrames } = track
    const chain = trimmedChain(track)
    const mix = isKeyed(chain.treatments) ? { plan: trackPlan(plan, track.id), recordings } : null
    const run = (options: RunOptions) =>
      pool.run('renderTrack', { ...input, chain, recording, offsetFrames, mix }, options)
    jobs.push({ what: track.name, name: named(track), run })
  }
  const names = fileNames(
    jobs.map((job) => job.name),
    '.wav',
  )
  return runAll(
    jobs.map((job, i) => ({ ...job, name: names[i] })),
    onProgress,
    signal,
  )
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
