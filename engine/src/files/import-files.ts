import { audioFileKind } from '@sober-prism/core/audio'
import type { Profile } from '@sober-prism/core/match'
import type { AudioRef } from '@sober-prism/core/session'
import { EngineError, errorSentence, isCancel } from '../engine-error'
import { onceMore } from '../work/life'
import { decodeInBrowser } from './browser-decode'
import { type FileJobOptions, type FileStage, type ImportSource, runFileJob } from './jobs'

/** Audio that has arrived: stored, at the session's rate. */
export interface ImportedAudio {
  readonly name: string
  readonly audio: AudioRef
  readonly originalRateHz: number
  /** Seconds since midnight at its first frame, where the file says so. */
  readonly timeStampSeconds: number | null
}

/** What happens to each file; `key` names it from first to last. */
export type ImportEvent =
  | { readonly kind: 'waiting'; readonly key: string; readonly name: string }
  | {
      readonly kind: 'progress'
      readonly key: string
      readonly stage: FileStage
      readonly share: number
    }
  | { readonly kind: 'opened'; readonly key: string; readonly count: number }
  | { readonly kind: 'done'; readonly key: string; readonly result: ImportedAudio }
  | { readonly kind: 'failed'; readonly key: string; readonly sentence: string }
  | { readonly kind: 'cancelled'; readonly key: string }

/** Where one file comes from. */
export interface FileSource {
  readonly name: string
  file(signal: AbortSignal): Promise<Blob>
}

const AT_ONCE = 2
/** Bytes by which a file's kind is told. */
const HEAD_BYTES = 64

export function fileSource(file: File): FileSource {
  return { name: file.name, file: async () => file }
}

/**
 * Brings files in, two at a time, in the order given; zips are opened and their audio follows. One bad
 * file never stops the others: each ends with an event of its own.
 */
export async function importFiles(
  sources: readonly FileSource[],
  sampleRateHz: number,
  onEvent: (event: ImportEvent) => void,
  signal: AbortSignal,
): Promise<void> {
  const queue = sources.map((source) => ({ key: crypto.randomUUID(), source }))
  for (const { key, source } of queue) onEvent({ kind: 'waiting', key, name: source.name })

  const one = async ({ key, source }: (typeof queue)[number]) => {
    try {
      if (signal.aborted) throw signal.reason
      onEvent({ kind: 'progress', key, stage: 'reading', share: 0 })
      const file = await source.file(signal)
      if (file.size === 0) throw new EngineError('The file is empty.')
      const kind = audioFileKind(await bytesOf(file.slice(0, HEAD_BYTES)))
      if (kind === 'zip') {
        const { entries } = await runFileJob('unzip', { file }, { signal })
        onEvent({ kind: 'opened', key, count: entries.length })
        const inner = entries.map((entry) => ({
          key: crypto.randomUUID(),
          source: { name: entry.name, file: async () => entry.file },
        }))
        for (const next of inner)
          onEvent({ kind: 'waiting', key: next.key, name: next.source.name })
        queue.push(...inner)
        return
      }
      onEvent({ kind: 'progress', key, stage: 'decoding', share: 0 })
      const onProgress = (stage: FileStage, share: number) =>
        onEvent({ kind: 'progress', key, stage, share })
      const result = await onceMore(async () => {
        const { incoming, transfer } = await incomingFrom(file, kind)
        const input = { source: incoming, sampleRateHz }
        return runFileJob('import', input, { signal, transfer, onProgress })
      })
      onEvent({
        kind: 'done',
        key,
        result: {
          name: source.name.replace(/\.[^.]+$/, '').slice(0, 200),
          audio: result.audio,
          originalRateHz: result.originalRateHz,
          timeStampSeconds: result.timeStampSeconds,
        },
      })
    } catch (error) {
      if (signal.aborted || isCancel(error)) onEvent({ kind: 'cancelled', key })
      else onEvent({ kind: 'failed', key, sentence: errorSentence(error) })
    }
  }

  const lane = async () => {
    for (let next = queue.shift(); next; next = queue.shift()) await one(next)
  }
  await Promise.all(Array.from({ length: AT_ONCE }, lane))
}

async function incomingFrom(
  file: Blob,
  kind: ReturnType<typeof audioFileKind>,
): Promise<{ incoming: ImportSource; transfer: Transferable[] }> {
  if (kind === 'wav' || kind === 'aiff') {
    return { incoming: { kind: 'file', format: kind, file }, transfer: [] }
  }
  const incoming = await decodeInBrowser(await bytesOf(file), kind)
  return {
    incoming,
    transfer: incoming.kind === 'file' ? [] : incoming.channels.map((c) => c.buffer),
  }
}

/**
 * The profile of an audio file, of whose sound nothing is kept.
 * @throws EngineError with a sentence.
 */
export async function profileFile(file: File, options: FileJobOptions = {}): Promise<Profile> {
  if (file.size === 0) throw new EngineError('The file is empty.')
  const kind = audioFileKind(await bytesOf(file.slice(0, HEAD_BYTES)))
  const name = file.name.replace(/\.[^.]+$/, '').slice(0, 200) || 'Recording'
  const { profile } = await onceMore(async () => {
    const { incoming, transfer } = await incomingFrom(file, kind)
    const input = { source: incoming, title: { name } }
    return runFileJob('profile', input, { ...options, transfer })
  })
  return profile
}

async function bytesOf(file: Blob): Promise<Uint8Array<ArrayBuffer>> {
  try {
    return new Uint8Array(await file.arrayBuffer())
  } catch {
    throw new EngineError('The file cannot be opened; it may have been moved or be locked.')
  }
}
