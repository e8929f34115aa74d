import { guessRole } from '@sober-prism/core/session'
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
import { sessionActions } from '../store/session-slice'
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

/** How often a list of files that report all the time is shown anew, in ms. */
const SHOWN_EVERY_MS = 250
/** Files that arrive within so many ms come into the session together: of many to come, more at a time. */
const [TOGETHER_MS, MANY_TOGETHER_MS] = [250, 1000]
const MANY = 8

/**
 * Files that come into the open session, whichever step one works on meanwhile: each becomes a track or a reference
 * as soon as it is stored.
 */
export class ImportJobs {
  /** As it is shown: some moments late while files are on their way. */
  readonly files = new Signal<readonly Incoming[]>([])
  readonly #states = new Map<string, Incoming>()
  #timer: ReturnType<typeof setTimeout> | undefined
  readonly #running = new Set<AbortController>()

  get busy(): boolean {
    return [...this.#states.values()].some(isOnItsWay)
  }

  async bring(list: readonly File[], destination: Destination): Promise<void> {
    if (list.length === 0) return
    const run = new AbortController()
    this.#running.add(run)
    const letGo = holdAudio()
    const { sampleRateHz, id } = openSession(store.getState())
    const arrivals = new Arrivals((batch) => {
      const session = store.getState().session.present
      const problems =
        session?.id !== id || session.sampleRateHz !== sampleRateHz
          ? batch.map(() => 'The session’s sample rate has changed. Import the file again.')
          : arrive(
              batch.map((b) => b.result),
              destination,
            )
      batch.forEach(({ key, after }, i) => {
        const problem = problems[i]
        this.#set(key, problem === null ? after : { kind: 'failed', sentence: problem })
      })
    })
    try {
      await importFiles(
        list.map(fileSource),
        sampleRateHz,
        (event) => {
          // A file is done when the session has it.
          if (event.kind !== 'done') this.#follow(event)
          arrivals.follow(event)
        },
        run.signal,
      )
    } finally {
      arrivals.flush()
      letGo()
      this.#running.delete(run)
    }
  }

  cancel(): void {
    for (const run of this.#running) run.abort(new DOMException('Cancelled.', 'AbortError'))
  }

  /** Takes files that are done with off the list. */
  clear(): void {
    for (const [key, file] of this.#states) if (!isOnItsWay(file)) this.#states.delete(key)
    this.#show()
  }

  #follow(event: Exclude<ImportEvent, { kind: 'done' }>): void {
    if (event.kind === 'waiting') {
      const { key, name } = event
      this.#states.set(key, { key, name, state: { kind: 'waiting' } })
      this.#showSoon()
    } else this.#set(event.key, stateAfter(event))
  }

  #set(key: string, state: Incoming['state']): void {
    const file = this.#states.get(key)
    if (!file) return
    this.#states.set(key, { ...file, state })
    if (this.busy) this.#showSoon()
    else this.#show()
  }

  #showSoon(): void {
    this.#timer ??= setTimeout(() => this.#show(), SHOWN_EVERY_MS)
  }

  #show(): void {
    clearTimeout(this.#timer)
    this.#timer = undefined
    this.files.set([...this.#states.values()])
  }
}

export function isOnItsWay({ state }: Incoming): boolean {
  return state.kind === 'waiting' || state.kind === 'busy'
}

interface Arrived {
  readonly key: string
  readonly result: ImportedAudio
  readonly after: Incoming['state']
}

/**
 * Passes results on in the order in which the files were given, whichever is ready first; those that are ready within
 * a moment together.
 */
class Arrivals {
  readonly #waiting: string[] = []
  readonly #settled = new Map<string, Arrived | null>()
  #batch: Arrived[] = []
  #delivered = false
  #timer: ReturnType<typeof setTimeout> | undefined

  constructor(private readonly deliver: (batch: readonly Arrived[]) => void) {}

  follow(event: ImportEvent): void {
    if (event.kind === 'progress') return
    const { key } = event
    if (event.kind === 'waiting') {
      this.#waiting.push(key)
      return
    }
    const isDone = event.kind === 'done'
    this.#settled.set(key, isDone ? { key, result: event.result, after: stateAfter(event) } : null)
    for (let next = this.#waiting[0]; next !== undefined; next = this.#waiting[0]) {
      const arrived = this.#settled.get(next)
      if (arrived === undefined) break
      if (arrived) this.#batch.push(arrived)
      this.#waiting.shift()
    }
    if (this.#waiting.length === 0) this.flush()
    else if (this.#batch.length > 0) {
      // The first ones are seen soon.
      const isLater = this.#delivered && this.#waiting.length > MANY
      const wait = isLater ? MANY_TOGETHER_MS : TOGETHER_MS
      this.#timer ??= setTimeout(() => this.flush(), wait)
    }
  }

  flush(): void {
    clearTimeout(this.#timer)
    this.#timer = undefined
    const batch = this.#batch
    this.#batch = []
    if (batch.length === 0) return
    this.#delivered = true
    this.deliver(batch)
  }
}

/** Puts what has arrived into the session; says for each why where that is refused, else null. */
function arrive(
  results: readonly ImportedAudio[],
  destination: Destination,
): readonly (string | null)[] {
  const arrivals = results.map(({ name, audio, timeStampSeconds }) => {
    const arrival = { id: crypto.randomUUID(), name, audio }
    return { arrival, track: { ...arrival, role: guessRole(name), timeStampSeconds } }
  })
  const put = (some: typeof arrivals) =>
    store.dispatch(
      sessionActions.edited([
        destination === 'tracks'
          ? { kind: 'add-tracks', tracks: some.map((a) => a.track) }
          : { kind: 'add-references', references: some.map((a) => a.arrival) },
      ]),
    )
  const isThere = ({ arrival }: (typeof arrivals)[number]) =>
    store.getState().session.present?.[destination].some((t) => t.id === arrival.id) ?? false
  put(arrivals)
  return arrivals.map((one) => {
    if (isThere(one)) return null
    // Together they were refused: each as far as it goes.
    if (arrivals.length > 1) put([one])
    if (isThere(one)) return null
    return store.getState().session.refused?.sentence ?? 'The session could not hold it.'
  })
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
