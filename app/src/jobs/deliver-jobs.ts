import { fileName } from '@sober-prism/core/mix'
import type { Session } from '@sober-prism/core/session'
import {
  bundleFiles,
  type Desk,
  errorSentence,
  isCancel,
  packSession,
  type RenderChoice,
  type RenderedFile,
  renderSession,
  Signal,
} from '@sober-prism/engine'
import { interfaceActions } from '../store/interface-slice'
import { store } from '../store/store'
import { download } from './download'

/** What is being done, and how far it is. */
export interface Work {
  readonly what: string
  readonly share: number
}

type Show = (what: string, share: number) => void

/** Rendering and saving of the open session, whichever step one works on meanwhile. */
export class DeliverJobs {
  readonly work = new Signal<Work | null>(null)
  readonly files = new Signal<readonly RenderedFile[]>([])
  #running: AbortController | null = null

  render(session: Session, choice: RenderChoice, desk: Desk): Promise<void> {
    return this.#run('Rendering', async (signal, show) => {
      this.files.set([])
      const made = await renderSession(session, choice, desk.pool, show, signal, desk.shelf)
      this.files.set(made)
      if (made.length === 1) return download(made[0].name, made[0].blob)
      // Browsers stop at about ten files that come by themselves: many come as one.
      const bundle = await bundleFiles(made, {
        signal,
        onProgress: (_, share) => show('Packing one zip', share),
      })
      download(`${fileName(session.name)}.zip`, bundle)
    })
  }

  /** Saves the session as a file, with its audio or without. */
  save(session: Session, withAudio: boolean): Promise<void> {
    return this.#run('Exporting the session', async (signal, show) => {
      const blob = await packSession(session, withAudio, {
        signal,
        onProgress: (_, share) => show('Exporting the session', share),
      })
      download(`${fileName(session.name)}.prism`, blob)
    })
  }

  cancel(): void {
    this.#running?.abort(new DOMException('Cancelled.', 'AbortError'))
  }

  async #run(what: string, job: (signal: AbortSignal, show: Show) => Promise<void>): Promise<void> {
    if (this.work.value) return
    const controller = new AbortController()
    this.#running = controller
    this.work.set({ what, share: 0 })
    try {
      await job(controller.signal, (step, share) => this.work.set({ what: step, share }))
    } catch (error) {
      if (!isCancel(error)) {
        store.dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
      }
    } finally {
      this.work.set(null)
    }
  }
}
