import {
  ConflictError,
  type Desk,
  errorSentence,
  journalSession,
  saveSession,
} from '@sober-prism/engine'
import { interfaceActions } from '../store/interface-slice'
import { store } from '../store/store'

const SAVE_MS = 300

/** What follows an open document: sound, measurements and storage. */
export interface Following {
  /** Stores what is not stored yet, now. */
  save(): Promise<void>
  stop(): void
}

/** Lets sound, measurements and storage follow the document. */
export function keepInStep(desk: Desk): Following {
  let shown = store.getState().session.present
  let saved = shown
  let timer: ReturnType<typeof setTimeout> | undefined
  let told = ''
  let refusals = store.getState().session.refused?.count ?? 0
  const warn = (sentence: string) =>
    store.dispatch(interfaceActions.noticeShown(sentence, 'warning'))
  const save = async () => {
    const session = shown
    if (!session || session === saved) return
    try {
      await saveSession(session)
      saved = session
      told = ''
    } catch (error) {
      if (error instanceof ConflictError) store.dispatch(interfaceActions.conflictFound(true))
      const sentence = errorSentence(error)
      if (sentence !== told) warn(sentence)
      told = sentence
    }
  }
  const flush = () => {
    if (shown && shown !== saved) journalSession(shown)
  }
  const whenHidden = () => {
    if (document.visibilityState === 'hidden') flush()
  }
  if (shown) desk.update(shown)
  const unwatch = desk.designProblem.watch(() => {
    if (desk.designProblem.value) warn(desk.designProblem.value)
  })
  const unsubscribe = store.subscribe(() => {
    const state = store.getState()
    desk.player.setMono(state.interface.mono)
    desk.analyser.setMono(state.interface.mono)
    const { present, refused } = state.session
    if (refused && refused.count !== refusals) {
      refusals = refused.count
      warn(refused.sentence)
    }
    if (!present || present === shown) return
    shown = present
    desk.update(present)
    clearTimeout(timer)
    timer = setTimeout(() => void save(), SAVE_MS)
  })
  window.addEventListener('pagehide', flush)
  document.addEventListener('visibilitychange', whenHidden)
  return {
    save,
    stop() {
      unsubscribe()
      unwatch()
      clearTimeout(timer)
      void save()
      window.removeEventListener('pagehide', flush)
      document.removeEventListener('visibilitychange', whenHidden)
    },
  }
}
