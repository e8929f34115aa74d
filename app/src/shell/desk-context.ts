import type { Analysis, Audition, Compare, Desk } from '@sober-prism/engine'
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

/** What of a finding is listened to, if anything. */
export function useAudition(): Audition | null {
  const { audition } = useDesk()
  return useSyncExternalStore(audition.watch, audition.read)
}

export function useCompare(): Compare {
  const { compare } = useDesk()
  return useSyncExternalStore(compare.watch, compare.read)
}
