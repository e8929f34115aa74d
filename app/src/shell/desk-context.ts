import type { Analysis, Desk, HeardRendition, SessionKeeper, Signal } from '@sober-prism/engine'
import { createContext, useContext, useRef, useSyncExternalStore } from 'react'
import type { DeliverJobs } from '../jobs/deliver-jobs'
import type { ImportJobs } from '../jobs/import-jobs'

/** What an open session works with. */
export interface OpenSession {
  readonly desk: Desk
  readonly keeper: SessionKeeper
  readonly imports: ImportJobs
  readonly deliver: DeliverJobs
}

export const OpenSessionContext = createContext<OpenSession | null>(null)

export function useOpenSession(): OpenSession {
  const open = useContext(OpenSessionContext)
  if (!open) throw new Error('No session is open here.')
  return open
}

/** The desk of the open session. */
export function useDesk(): Desk {
  return useOpenSession().desk
}

export function useSignal<T>({ watch, read }: Signal<T>): T {
  return useSyncExternalStore(watch, read)
}

/** Some of what is measured: the same object while none of it changes, however far the measuring has come. */
export function useAnalysis<Name extends keyof Analysis>(...names: Name[]): Pick<Analysis, Name> {
  const { watch, read } = useDesk().analyser.state
  const last = useRef<Analysis | null>(null)
  return useSyncExternalStore(watch, () => {
    const now = read()
    if (names.some((name) => last.current?.[name] !== now[name])) last.current = now
    last.current ??= now
    return last.current
  })
}

/** What is heard in place of the session, if anything; a hunt is one thing, wherever its boost stands. */
export function useHeard(): HeardRendition | null {
  const { watch, read } = useDesk().heard
  const last = useRef<HeardRendition | null>(null)
  return useSyncExternalStore(watch, () => {
    const now = read()
    if (!isSameHunt(last.current, now)) last.current = now
    return last.current
  })
}

function isSameHunt(a: HeardRendition | null, b: HeardRendition | null): boolean {
  const [before, now] = [a?.rendition, b?.rendition]
  return before?.kind === 'hunt' && now?.kind === 'hunt' && before.at.node === now.at.node
}
