import type { Analysis, Desk, HeardRendition } from '@sober-prism/engine'
import { createContext, useContext, useSyncExternalStore } from 'react'

export const DeskContext = createContext<Desk | null>(null)

/** The desk of the open session. */
export function useDesk(): Desk {
  const desk = useContext(DeskContext)
  if (!desk) throw new Error('There is no desk outside a session.')
  return desk
}

export function useAnalysis(): Analysis {
  const { state } = useDesk().analyser
  return useSyncExternalStore(state.watch, state.read)
}

/** What is heard in place of the session, if anything. */
export function useHeard(): HeardRendition | null {
  const { heard } = useDesk()
  return useSyncExternalStore(heard.watch, heard.read)
}
