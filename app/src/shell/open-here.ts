import { MIX } from '@sober-prism/core/treatments'
import {
  type Desk,
  errorSentence,
  holdAudio,
  loadSession,
  SessionKeeper,
  SessionLock,
  UnreadableError,
} from '@sober-prism/engine'
import { DeliverJobs } from '../jobs/deliver-jobs'
import { ImportJobs } from '../jobs/import-jobs'
import { interfaceActions } from '../store/interface-slice'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import type { OpenSession } from './desk-context'
import { type Following, followSession } from './follow-session'
import { keepHistory } from './keep-history'

/** How far a session is opened here. */
export type Opening =
  | { kind: 'loading' }
  | { kind: 'failed'; sentence: string }
  | { kind: 'unreadable'; error: UnreadableError; again: () => void }
  | {
      kind: 'elsewhere'
      /** What taking over would end in the other window; null when it said nothing of the kind. */
      objection: string | null
      takeOver: () => void
    }
  | { kind: 'open'; open: OpenSession }

const RESCUED = 'Changes from another window were found and saved as a separate session.'

/** Opens a session as soon as no other window works on it, and lets go when one takes over. */
export function openHere(id: string, show: (opening: Opening) => void): () => void {
  const lock = new SessionLock(id)
  const letGo = holdAudio()
  let keeper: SessionKeeper | null = null
  let imports: ImportJobs | null = null
  let deliver: DeliverJobs | null = null
  let following: Following | null = null
  let unkeep = () => {}
  let opened = false
  let closed = false
  const open = async () => {
    opened = true
    try {
      const loaded = await loadSession(id)
      if (closed || lock.holder.value !== 'here') return
      if (!loaded) return show({ kind: 'failed', sentence: 'This session is not in this browser.' })
      const { session, rescued } = loaded
      store.dispatch(sessionActions.opened(session))
      store.dispatch(interfaceActions.nodeChosen(session.tracks[0]?.id ?? MIX))
      if (rescued.length > 0) store.dispatch(interfaceActions.noticeShown(RESCUED, 'warning'))
      const work = {
        keeper: new SessionKeeper(session),
        imports: new ImportJobs(),
        deliver: new DeliverJobs(),
      }
      ;({ keeper, imports, deliver } = work)
      const showDesk = (desk: Desk) => {
        if (import.meta.env.MODE === 'test') Object.assign(window, { soberPrism: { desk } })
        show({ kind: 'open', open: { ...work, desk } })
      }
      unkeep = keepHistory(session)
      following = followSession(keeper, imports, session.sampleRateHz, showDesk)
      showDesk(following.desk)
    } catch (error) {
      if (closed) return
      if (error instanceof UnreadableError) {
        return show({ kind: 'unreadable', error, again: () => void open() })
      }
      show({ kind: 'failed', sentence: errorSentence(error) })
    }
  }
  const close = () => {
    imports?.cancel()
    deliver?.cancel()
    unkeep()
    unkeep = () => {}
    following?.stop()
    following = null
    opened = false
    store.dispatch(sessionActions.opened(null))
  }
  const follow = () => {
    if (lock.holder.value === 'here' && !opened) void open()
    if (lock.holder.value !== 'elsewhere') return
    close()
    const objection = lock.objection.value
    show({ kind: 'elsewhere', objection, takeOver: () => lock.takeOver(objection !== null) })
  }
  lock.wouldEnd = () => {
    if (imports?.busy) return 'Files are still importing there; taking over stops them.'
    if (deliver?.work.value) return 'Files are still rendering there; taking over stops them.'
    return null
  }
  lock.onTakenOver = async () => {
    await keeper?.save()
  }
  const unwatch = lock.holder.watch(follow)
  follow()
  return () => {
    closed = true
    unwatch()
    close()
    letGo()
    lock.close()
    show({ kind: 'loading' })
  }
}
