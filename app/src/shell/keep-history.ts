import type { Session } from '@sober-prism/core/session'
import { loadHistory, saveHistory } from '@sober-prism/engine'
import { historyRestored } from '../store/history'
import { store } from '../store/store'

const KEEP_MS = 700

/**
 * Brings undo and redo of a session back, and keeps them from now on for the next time: when the document has stood still
 * for a moment, and when the page goes away.
 * @returns what ends that.
 */
export function keepHistory(session: Session): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined
  let isRestored = false
  let seen = store.getState().session.present
  const keep = () => {
    clearTimeout(timer)
    timer = undefined
    const { past, present, future } = store.getState().session
    if (present?.id === session.id) void saveHistory({ past, present, future })
  }
  const flush = () => {
    if (timer !== undefined) keep()
  }
  const whenHidden = () => {
    if (document.visibilityState === 'hidden') flush()
  }
  void loadHistory(session).then((steps) => {
    isRestored = true
    if (steps && store.getState().session.present?.id === session.id) {
      store.dispatch(historyRestored(steps))
    }
  })
  const unsubscribe = store.subscribe(() => {
    const { present } = store.getState().session
    // What was kept is not overwritten before it is back.
    if (present === seen || !isRestored) return
    seen = present
    clearTimeout(timer)
    timer = setTimeout(keep, KEEP_MS)
  })
  window.addEventListener('pagehide', flush)
  document.addEventListener('visibilitychange', whenHidden)
  return () => {
    flush()
    unsubscribe()
    window.removeEventListener('pagehide', flush)
    document.removeEventListener('visibilitychange', whenHidden)
  }
}
