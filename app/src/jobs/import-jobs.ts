import {
  type FileStage,
  fileSource,
  holdAudio,
  type ImportEvent,
  type ImportedAudio,
  importFiles,
  Signal,
} from '@sober-prism/engine'
import { openSession } from '../store/selectors'
import { guessRole, sessionActions } from '../store/session-slice'
import { store } from '../store/store'

/** One file on its way in. */
export interface Incoming {
  readonly key: string
  readonly name: string
  readonly state:
    | { readonly kind: 'waiting' }
    | { readonly kind: 'busy'; readonly stage: FileStage; readonly share: number }
    | { readonly kind: 'done'; readonly text: string }
    | { readonly kind: 'failed'; readonly sentence: string }
    | { readonly kind: 'cancelled' }
}

export type Destination = 'tracks' | 'references'

/**
 * Files that come into the open session, whichever step one works on meanwhile: each becomes a track or a reference
 * as soon as it is stored.
 */
export class ImportJobs {
  readonly files = new Signal<readonly Incoming[]>([])
  readonly #running = new Set<AbortController>()

  get busy(): boolean {
    return this.files.value.some(isOnItsWay)
  }

  async bring(list: readonly File[], destination: Destination): Promise<void> {
    if (list.length === 0) return
    const run = new AbortController()
    this.#running.add(run)
    const letGo = holdAudio()
    const { sampleRateHz, id } = openSession(store.getState())
    const inOrder = keepOrder((key, result) => {
      const session = store.getState().session.present
      const problem =
        session?.id !== id || session.sampleRateHz !== sampleRateHz
          ? 'The session’s rate was changed meanwhile; bring the file in again.'
          : arrive(result, destination)
      if (problem !== null) this.#set(key, { kind: 'failed', sentence: problem })
    })
    try {
      await importFiles(
        list.map(fileSource),
        sampleRateHz,
        (event) => {
          this.#follow(event)
          inOrder(event)
        },
        run.signal,
      )
    } finally {
      letGo()
      this.#running.delete(run)
    }
  }

  cancel(): void {
    for (const run of this.#running) run.abort(new DOMException('Cancelled.', 'AbortError'))
  }

  /** Takes files that are done with off the list. */
  clear(): void {
    this.files.set(this.files.value.filter(isOnItsWay))
  }

  #follow(event: ImportEvent): void {
    if (event.kind === 'waiting') {
      const { key, name } = event
      this.files.set([...this.files.value, { key, name, state: { kind: 'waiting' } }])
    } else this.#set(event.key, stateAfter(event))
  }

  #set(key: string, state: Incoming['state']): void {
    this.files.set(this.files.value.map((file) => (file.key === key ? { ...file, state } : file)))
  }
}

function isOnItsWay({ state }: Incoming): boolean {
  return state.kind === 'waiting' || state.kind === 'busy'
}

/** Passes results on in the order in which the files were given, whichever is ready first. */
function keepOrder(
  deliver: (key: string, result: ImportedAudio) => void,
): (event: ImportEvent) => void {
  const waiting: string[] = []
  const settled = new Map<string, ImportedAudio | null>()
  return (event) => {
    if (event.kind === 'progress') return
    if (event.kind === 'waiting') waiting.push(event.key)
    else settled.set(event.key, event.kind === 'done' ? event.result : null)
    for (let key = waiting[0]; key !== undefined && settled.has(key); key = waiting[0]) {
      const result = settled.get(key)
      if (result) deliver(key, result)
      waiting.shift()
    }
  }
}

/** Puts what has arrived into the session; says why where that is refused. */
function arrive(result: ImportedAudio, destination: Destination): string | null {
  const { name, audio, timeStampSeconds } = result
  const arrival = { id: crypto.randomUUID(), name, audio }
  const track = { ...arrival, role: guessRole(name), timeStampSeconds }
  store.dispatch(
    sessionActions.edited([
      destination === 'tracks'
        ? { kind: 'add-tracks', tracks: [track] }
        : { kind: 'add-references', references: [arrival] },
    ]),
  )
  const { present, refused } = store.getState().session
  const isThere = present?.[destination].some((t) => t.id === arrival.id)
  return isThere ? null : (refused?.sentence ?? 'The session could not take it.')
}

function stateAfter(event: Exclude<ImportEvent, { kind: 'waiting' }>): Incoming['state'] {
  switch (event.kind) {
    case 'progress':
      return { kind: 'busy', stage: event.stage, share: event.share }
    case 'opened':
      return {
        kind: 'done',
        text: `${event.count} audio ${event.count === 1 ? 'file' : 'files'} in it`,
      }
    case 'done': {
      const { audio, originalRateHz } = event.result
      const channels = audio.channels === 1 ? 'mono' : 'stereo'
      return { kind: 'done', text: `${channels}, ${originalRateHz} Hz` }
    }
    case 'failed':
      return { kind: 'failed', sentence: event.sentence }
    case 'cancelled':
      return { kind: 'cancelled' }
  }
}
