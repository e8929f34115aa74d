import {
  type FileStage,
  fileSource,
  type ImportEvent,
  type ImportedAudio,
  importFiles,
} from '@sober-prism/engine'
import { useCallback, useEffect, useRef, useState } from 'react'
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

/** Brings files into the open session: each becomes a track or a reference as soon as it is stored. */
export function useImport() {
  const [files, setFiles] = useState<readonly Incoming[]>([])
  const running = useRef(new Set<AbortController>())
  const cancel = useCallback(() => {
    for (const run of running.current) run.abort(new DOMException('Cancelled.', 'AbortError'))
  }, [])
  useEffect(() => cancel, [cancel])

  const bring = useCallback(async (list: readonly File[], destination: Destination) => {
    if (list.length === 0) return
    const run = new AbortController()
    running.current.add(run)
    const { sampleRateHz, id } = openSession(store.getState())
    const inOrder = keepOrder((result) => {
      if (store.getState().session.present?.id === id) arrive(result, destination)
    })
    await importFiles(
      list.map(fileSource),
      sampleRateHz,
      (event) => {
        setFiles((now) => follow(now, event))
        inOrder(event)
      },
      run.signal,
    )
    running.current.delete(run)
  }, [])

  const clear = useCallback(
    () => setFiles((now) => now.filter((f) => ['waiting', 'busy'].includes(f.state.kind))),
    [],
  )
  const busy = files.some((f) => f.state.kind === 'waiting' || f.state.kind === 'busy')
  return { files, busy, bring, cancel, clear }
}

/** Passes results on in the order in which the files were given, whichever is ready first. */
function keepOrder(deliver: (result: ImportedAudio) => void): (event: ImportEvent) => void {
  const waiting: string[] = []
  const settled = new Map<string, ImportedAudio | null>()
  return (event) => {
    if (event.kind === 'progress') return
    if (event.kind === 'waiting') waiting.push(event.key)
    else settled.set(event.key, event.kind === 'done' ? event.result : null)
    for (let key = waiting[0]; key !== undefined && settled.has(key); key = waiting[0]) {
      const result = settled.get(key)
      if (result) deliver(result)
      waiting.shift()
    }
  }
}

function arrive(result: ImportedAudio, destination: Destination): void {
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
}

function follow(files: readonly Incoming[], event: ImportEvent): readonly Incoming[] {
  if (event.kind === 'waiting') {
    return [...files, { key: event.key, name: event.name, state: { kind: 'waiting' } }]
  }
  const state = stateAfter(event)
  return files.map((file) => (file.key === event.key ? { ...file, state } : file))
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
