import {
  emptySession,
  freeLetter,
  newTrack,
  ROLES,
  type Role,
  type Session,
} from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { saveSession } from '../storage/sessions'
import { type FileSource, type ImportEvent, type ImportedAudio, importFiles } from './import-files'

interface DemoFile {
  readonly kind: 'track' | 'reference' | 'announcement'
  readonly name: string
  readonly file: string
  readonly role?: string
  readonly faderDb?: number
}

/** The sessions that the demo can open. */
export type DemoChoice = 'ensemble' | 'announcement'

const RATE_HZ = 48000
/** The stretch the ensemble's demo opens with, in seconds: sixteen bars with everybody playing. */
const PASSAGE_SECONDS = [14, 38] as const

/** Fetches the demo's audio from this app's own server and stores it as a new session. @throws EngineError */
export async function openDemo(
  choice: DemoChoice,
  onEvent: (event: ImportEvent) => void,
  signal: AbortSignal,
): Promise<Session> {
  const list = await fetchList(signal)
  const files = list.files.filter(
    (f) => (f.kind === 'announcement') === (choice === 'announcement'),
  )
  const sources: FileSource[] = files.map((file) => ({
    name: `${file.name}.wav`,
    file: async (s) => (await fetchDemo(file.file, s)).blob(),
  }))
  const arrived = new Map<string, ImportedAudio>()
  let problem: string | null = null
  await importFiles(
    sources,
    RATE_HZ,
    (event) => {
      if (event.kind === 'done') arrived.set(event.result.name, event.result)
      if (event.kind === 'failed') problem ??= event.sentence
      onEvent(event)
    },
    signal,
  )
  signal.throwIfAborted()
  if (problem !== null) throw new EngineError(`The demo could not be opened. ${problem}`)
  const session = assemble(choice, list.name, files, arrived)
  await saveSession(session)
  return session
}

function assemble(
  choice: DemoChoice,
  name: string,
  files: readonly DemoFile[],
  arrived: ReadonlyMap<string, ImportedAudio>,
): Session {
  const session = emptySession(
    crypto.randomUUID(),
    choice === 'ensemble' ? name : 'Deck announcement',
    new Date().toISOString(),
    RATE_HZ,
  )
  for (const file of files) {
    const audio = arrived.get(file.name)?.audio
    if (!audio) continue
    if (file.kind === 'reference') {
      session.references.push({ id: crypto.randomUUID(), name: file.name, audio, passage: null })
      continue
    }
    const role: Role = ROLES.find((r) => r === file.role) ?? 'speech'
    const track = newTrack(crypto.randomUUID(), file.name, role, freeLetter(session.tracks), audio)
    session.tracks.push({ ...track, faderDb: file.faderDb ?? 0 })
  }
  session.leadIds = session.tracks.slice(0, 1).map((t) => t.id)
  if (choice === 'ensemble') {
    const [from, to] = PASSAGE_SECONDS
    session.passage = { fromFrame: from * RATE_HZ, toFrame: to * RATE_HZ }
  }
  return session
}

async function fetchList(signal: AbortSignal): Promise<{ name: string; files: DemoFile[] }> {
  return (await fetchDemo('demo.json', signal)).json()
}

async function fetchDemo(file: string, signal: AbortSignal): Promise<Response> {
  const response = await fetch(`/demo/${file}`, { signal }).catch(() => null)
  signal.throwIfAborted()
  if (!response?.ok) {
    throw new EngineError('The demo audio is missing. Start the app with "npm start" to make it.')
  }
  return response
}
