import { type Ask, errorSentence, isCancel } from '@sober-prism/engine'
import { useCallback, useEffect, useRef, useState } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'
import { useDesk } from './desk-context'

type Name = keyof Ask
type Args<N extends Name> = Parameters<Ask[N]>[0]
type Answer<N extends Name> = NonNullable<Awaited<ReturnType<Ask[N]>>>

/** A question that is asked for as long as it is shown. */
interface Asked<N extends Name> {
  /** The last answer about this subject; the one before stays until the next is there. Null where there is none. */
  readonly answer: Answer<N> | null
  /** How far it is, 0 to 1; null while nothing is asked. */
  readonly share: number | null
  /** Why there is no answer, as a sentence. */
  readonly trouble: string | null
  readonly stop: () => void
}

interface AskedOptions {
  /** An answer is shown only for the subject that it was asked for. */
  readonly subject: string
  /** What, besides its words, changes the answer; the desk holds it. */
  readonly depends: readonly unknown[]
  /** `notice`: what goes wrong is told there; else whoever asks shows `trouble`. */
  readonly tell?: 'notice' | 'here'
}

/** Asks the desk, and anew whenever what decides the answer changes. @param args plain and small; null asks nothing. */
export function useAsked<N extends Name>(
  name: N,
  args: Args<N> | null,
  { subject, depends, tell = 'notice' }: AskedOptions,
): Asked<N> {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const [known, setKnown] = useState<Known<Answer<N>> | null>(null)
  const [share, setShare] = useState<number | null>(null)
  const running = useRef<AbortController | null>(null)
  const asked = args === null ? null : JSON.stringify(args ?? {})
  // biome-ignore lint/correctness/useExhaustiveDependencies: `asked` stands for the words, `depends` for what the desk holds.
  useEffect(() => {
    if (asked === null) return
    const controller = new AbortController()
    const { signal } = controller
    running.current = controller
    setShare(0)
    const ask = desk.ask[name] as (args: unknown, options: object) => Promise<Answer<N> | null>
    const onProgress = (s: number) => {
      if (!signal.aborted) setShare(s)
    }
    ask(args, { signal, onProgress })
      .then((answer) => {
        if (running.current !== controller) return
        setShare(null)
        setKnown({ subject, answer, trouble: null })
      })
      .catch((error: unknown) => {
        if (running.current !== controller) return
        setShare(null)
        const isStopped = isCancel(error) || signal.aborted
        const trouble = isStopped ? 'Stopped.' : errorSentence(error)
        setKnown((before) => ({
          subject,
          answer: before?.subject === subject ? before.answer : null,
          trouble,
        }))
        if (tell === 'notice' && !isStopped) {
          dispatch(interfaceActions.noticeShown(trouble, 'warning'))
        }
      })
    return () => {
      if (running.current === controller) running.current = null
      controller.abort()
    }
  }, [desk, dispatch, name, asked, subject, tell, ...depends])
  const stop = useCallback(() => running.current?.abort(), [])
  if (asked === null) return { answer: null, share: null, trouble: null, stop }
  // A new subject is being asked about from its first frame on.
  if (known?.subject !== subject) return { answer: null, share: share ?? 0, trouble: null, stop }
  const { answer, trouble } = known
  return { answer, share, trouble: share === null ? trouble : null, stop }
}

interface Known<A> {
  readonly subject: string
  readonly answer: A | null
  readonly trouble: string | null
}

/** What a piece of work is given. */
export interface WorkOptions {
  readonly signal: AbortSignal
  readonly onProgress: (share: number) => void
}

/** Work that a press begins, one piece at a time. */
export interface Work {
  /** How far it is, 0 to 1; null while nothing is done. */
  readonly busy: number | null
  /** What went wrong with the last piece, as a sentence; ‘Stopped.’ where it was given up. */
  readonly trouble: string | null
  readonly tell: (trouble: string | null) => void
  /** Begins work; what was under way is given up. @returns whether it went to its end. */
  readonly run: (work: (options: WorkOptions) => Promise<void>) => Promise<boolean>
  readonly stop: () => void
}

/** @param sentence for errors that have words of their own. */
export function useWork(sentence: (error: unknown) => string = errorSentence): Work {
  const [busy, setBusy] = useState<number | null>(null)
  const [trouble, tell] = useState<string | null>(null)
  const running = useRef<AbortController | null>(null)
  useEffect(
    () => () => {
      running.current?.abort()
      running.current = null
    },
    [],
  )
  const run = async (work: (options: WorkOptions) => Promise<void>) => {
    running.current?.abort()
    const controller = new AbortController()
    const { signal } = controller
    running.current = controller
    const isCurrent = () => running.current === controller
    tell(null)
    setBusy(0)
    try {
      await work({ signal, onProgress: (share) => isCurrent() && setBusy(share) })
      if (isCurrent()) setBusy(null)
      return isCurrent() && !signal.aborted
    } catch (error) {
      if (!isCurrent()) return false
      setBusy(null)
      tell(isCancel(error) || signal.aborted ? 'Stopped.' : sentence(error))
      return false
    }
  }
  return { busy, trouble, tell, run, stop: () => running.current?.abort() }
}

/** What cannot be done for want of a recording. */
export const AUDIO_MISSING = 'Its audio is missing. Import it again.'
export const EITHER_MISSING = 'Audio is missing for one of the two. Import it again.'
