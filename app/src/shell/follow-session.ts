import { Desk, errorSentence, type SessionKeeper } from '@sober-prism/engine'
import type { ImportJobs } from '../jobs/import-jobs'
import { interfaceActions } from '../store/interface-slice'
import { pressed } from '../store/pressed'
import { store } from '../store/store'

/** What follows an open document. */
export interface Following {
  readonly desk: Desk
  stop(): void
}

/**
 * Lets sound, measurements and storage follow the document. A session that takes another sample rate gets another
 * desk, of which `onDesk` is told.
 */
export function followSession(
  keeper: SessionKeeper,
  imports: ImportJobs,
  sampleRateHz: number,
  onDesk: (desk: Desk) => void,
): Following {
  let shown = store.getState().session.present
  let rateHz = sampleRateHz
  let desk = new Desk(rateHz)
  let refusals = store.getState().session.refused?.count ?? 0
  const warn = (sentence: string) =>
    store.dispatch(interfaceActions.noticeShown(sentence, 'warning'))
  const watchDesign = () =>
    desk.designProblem.watch(() => {
      if (desk.designProblem.value) warn(desk.designProblem.value)
    })
  let unwatch = watchDesign()
  const unwatchImports = imports.files.watch(() => desk.analyser.expectMore(imports.busy))
  const unwatchPressed = pressed.watch((down) => desk.analyser.hold(down))
  const flush = () => keeper.flush()
  const whenHidden = () => {
    if (document.visibilityState === 'hidden') flush()
  }
  if (shown) desk.update(shown)
  const unsubscribe = store.subscribe(() => {
    const state = store.getState()
    const { present, refused } = state.session
    if (refused && refused.count !== refusals) {
      refusals = refused.count
      warn(refused.sentence)
    }
    const isNew = present !== null && present !== shown
    shown = present ?? shown
    // Kept before anything is told of it that can fail.
    if (isNew) keeper.update(present)
    if (present && present.sampleRateHz !== rateHz) {
      unwatch()
      void desk.close()
      rateHz = present.sampleRateHz
      desk = new Desk(rateHz)
      unwatch = watchDesign()
      onDesk(desk)
    }
    desk.player.listen(state.interface.listening)
    desk.analyser.setMono(state.interface.listening.position === 'mono')
    if (!isNew) return
    try {
      desk.update(present)
    } catch (error) {
      // The change stands and is kept; what sounds may be the state before it.
      warn(errorSentence(error))
    }
  })
  window.addEventListener('pagehide', flush)
  document.addEventListener('visibilitychange', whenHidden)
  return {
    get desk() {
      return desk
    },
    stop() {
      unsubscribe()
      unwatch()
      unwatchImports()
      unwatchPressed()
      void keeper.close()
      void desk.close()
      window.removeEventListener('pagehide', flush)
      document.removeEventListener('visibilitychange', whenHidden)
    },
  }
}
