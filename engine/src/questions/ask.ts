import { recordingsIn } from '@sober-prism/core/mix'
import type { Session } from '@sober-prism/core/session'
import { ResultCache } from '../analysis/result-cache'
import { hashOf } from '../analysis/scheduler'
import { isCancel } from '../engine-error'
import type { RecordingShelf } from '../storage/recording-access'
import type { WorkerPool } from '../work/worker-pool'
import type { Asking, Progress, Question, RecordingMap } from './question'
import { type AnswerOf, type ArgsOf, type QuestionName, questions } from './registry'

interface AskOptions {
  readonly signal?: AbortSignal
  readonly onProgress?: Progress
}

/**
 * Every question by its name: what is asked goes to a worker; null where it cannot be asked (no session, audio missing,
 * gone what it is about). @throws EngineError; the signal's reason when it is given up.
 */
export type Ask = {
  readonly [N in QuestionName]: (
    args: ArgsOf<N>,
    options?: AskOptions,
  ) => Promise<AnswerOf<N> | null>
}

type AnyQuestion = Question<unknown, unknown>

/** @param current the session as it stands; null before there is one. */
export function makeAsk(
  pool: Pick<WorkerPool, 'run'>,
  shelf: Pick<RecordingShelf, 'find'>,
  current: () => Session | null,
): Ask {
  const ask = (name: QuestionName) => {
    const { prepare, keeps, waits } = questions[name] as AnyQuestion
    const kept = keeps === undefined ? null : new ResultCache(keeps)
    return async (args: unknown, { signal, onProgress }: AskOptions = {}): Promise<unknown> => {
      const session = current()
      if (!session) return null
      const input = await prepare(args, asking(session, shelf))
      if (input === null) return null
      signal?.throwIfAborted()
      const run = () =>
        pool.run(name, input as never, { signal, onProgress, first: !waits }) as Promise<unknown>
      if (!kept) return run()
      const key = keyOf(input)
      return kept.get(key, run).catch((error: unknown) => {
        // Another one asked for the same first, and gave it up.
        if (isCancel(error) && !signal?.aborted) return kept.get(key, run)
        throw error
      })
    }
  }
  const names = Object.keys(questions) as QuestionName[]
  return Object.fromEntries(names.map((name) => [name, ask(name)])) as unknown as Ask
}

function asking(session: Session, shelf: Pick<RecordingShelf, 'find'>): Asking {
  const audios = [...session.tracks, ...session.references].map((t) => t.audio)
  return {
    session,
    async find(...sounds) {
      const wanted = new Set<string>()
      for (const sound of sounds) {
        if (!sound) return null
        for (const hash of recordingsIn(sound)) wanted.add(hash)
      }
      const found = await shelf.find(audios.filter((a) => wanted.has(a.hash)))
      // A mix is heard without what is missing of it; one recording is all there is.
      const isThere = sounds.every((s) => s?.of !== 'chain' || found.has(s.source))
      return isThere ? found : null
    },
  }
}

/** Recordings are named by their content; all else is plain. */
function keyOf(input: unknown): string {
  const { recordings, ...rest } = input as { recordings?: RecordingMap }
  return hashOf([rest, [...(recordings?.keys() ?? [])]])
}
