import { fileNames } from '@sober-prism/core/mix'
import {
  askToKeepData,
  type DemoChoice,
  errorSentence,
  holdAudio,
  isCancel,
  type SessionEntry,
} from '@sober-prism/engine'
import { useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { download } from '../jobs/download'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'

const files = () => import('./session-files')

/** Long work on the page of sessions. */
export interface SessionWork {
  readonly what: string
  readonly share: number
  cancel(): void
}

type Job = (signal: AbortSignal, show: (share: number, what?: string) => void) => Promise<void>

/** What takes a while on the page of sessions: one thing at a time, with progress, to be cancelled. */
export function useSessionWork() {
  const [work, setWork] = useState<SessionWork | null>(null)
  const running = useRef<AbortController | null>(null)
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  useEffect(() => () => running.current?.abort(), [])

  const tell = (error: unknown) => {
    if (isCancel(error)) return
    dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
  }
  const run = async (what: string, job: Job) => {
    const controller = new AbortController()
    running.current = controller
    const letGo = holdAudio()
    const cancel = () => controller.abort(new DOMException('Cancelled.', 'AbortError'))
    setWork({ what, share: 0, cancel })
    try {
      await job(controller.signal, (share, step = what) => setWork({ what: step, share, cancel }))
    } catch (error) {
      tell(error)
    } finally {
      letGo()
      setWork(null)
    }
  }
  const goTo = (what: string, job: (...args: Parameters<Job>) => Promise<{ id: string }>) =>
    run(what, async (signal, show) => {
      void askToKeepData()
      const { id } = await job(signal, show)
      if (!signal.aborted) navigate(`/session/${id}/survey`)
    })

  return {
    work,
    tell,
    openDemo: (choice: DemoChoice) =>
      goTo('Loading the demo', async (signal, show) => {
        const { openDemo } = await files()
        const shares = new Map<string, number>()
        return openDemo(
          choice,
          (event) => {
            if (event.kind === 'waiting') shares.set(event.key, 0)
            if (event.kind === 'progress') shares.set(event.key, 0.2 + 0.6 * event.share)
            if (event.kind === 'done') shares.set(event.key, 1)
            show([...shares.values()].reduce((a, b) => a + b, 0) / Math.max(1, shares.size))
          },
          signal,
        )
      }),
    openFile: (file: File) =>
      goTo('Opening the session file', async (signal, show) => {
        const { openSessionFile } = await files()
        return openSessionFile(file, { signal, onProgress: (_, share) => show(share) })
      }),
    /** Saves sessions with their audio, several as one zip. */
    save: (entries: readonly SessionEntry[]) =>
      run('Exporting sessions', async (signal, show) => {
        const { bundleFiles, loadSession, packSession } = await files()
        const packed: { name: string; blob: Blob }[] = []
        const names = fileNames(
          entries.map((entry) => entry.name),
          '.prism',
        )
        for (const [index, entry] of entries.entries()) {
          const loaded = await loadSession(entry.id)
          if (!loaded) continue
          const onProgress = (_: unknown, share: number) =>
            show((index + share) / entries.length, `Exporting ${entry.name}`)
          const blob = await packSession(loaded.session, true, { signal, onProgress })
          packed.push({ name: names[index], blob })
        }
        if (packed.length === 1) return download(packed[0].name, packed[0].blob)
        const bundle = await bundleFiles(packed, { signal })
        download('sober-prism-sessions.zip', bundle)
      }),
  }
}
