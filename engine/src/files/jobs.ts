import type { Profile, ProfileTitle } from '@sober-prism/core/match'
import type { AudioRef, Session } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import type { RecordingAccess } from '../storage/recording-access'
import { type ALIVE, Life, onceMore } from '../work/life'

/** What a file is going through. */
export type FileStage = 'reading' | 'decoding' | 'converting' | 'storing'

/** Samples as they come in: a WAV or AIFF file, or what the browser decoded. */
export type ImportSource =
  | { readonly kind: 'file'; readonly format: 'wav' | 'aiff'; readonly file: Blob }
  | {
      readonly kind: 'decoded'
      readonly channels: readonly Float32Array<ArrayBuffer>[]
      readonly sampleRateHz: number
    }

/** Work on files, each done by a worker of its own: what goes in and what comes out. */
export interface FileJobs {
  /** Audio files of a zip. */
  unzip: {
    in: { file: Blob }
    out: { entries: readonly { name: string; file: Blob }[] }
  }
  /** Reads, brings to a rate and stores audio, a second or so at a time. */
  import: {
    in: { source: ImportSource; sampleRateHz: number }
    out: {
      audio: AudioRef
      originalRateHz: number
      timeStampSeconds: number | null
    }
  }
  /** What is known of a sound in the long run; nothing of it is stored. */
  profile: { in: { source: ImportSource; title: ProfileTitle }; out: { profile: Profile } }
  /** Makes a `.prism` file with the recordings that are given. */
  pack: {
    in: { session: Session; recordings: readonly RecordingAccess[] }
    out: { blob: Blob }
  }
  /** Puts finished files into one zip. */
  bundle: {
    in: { files: readonly { name: string; blob: Blob }[] }
    out: { blob: Blob }
  }
  /** Reads a `.prism` file and stores the audio in it. */
  unpack: { in: { file: Blob }; out: { session: Session } }
}
export type FileJobName = keyof FileJobs

export interface ToFileWorker {
  readonly name: FileJobName
  readonly input: unknown
}
export type FromFileWorker =
  | typeof ALIVE
  | { readonly kind: 'progress'; readonly stage: FileStage; readonly share: number }
  | { readonly kind: 'done'; readonly output: unknown }
  | { readonly kind: 'failed'; readonly sentence: string }

export interface FileJobOptions {
  readonly signal?: AbortSignal
  readonly onProgress?: (stage: FileStage, share: number) => void
  readonly transfer?: Transferable[]
}

/** A worker that is done with a job waits so long for another one, in ms: many files come in one after the other. */
const IDLE_MS = 3000
const MOST_IDLE = 2

interface Hand {
  readonly worker: Worker
  readonly life: Life
  /** Ends the job under way. */
  onEnd: (error: EngineError) => void
  dismissal: ReturnType<typeof setTimeout> | undefined
}

const idle: Hand[] = []

function hire(): Hand {
  const waiting = idle.pop()
  if (waiting) {
    clearTimeout(waiting.dismissal)
    return waiting
  }
  const worker = new Worker(new URL('./files.worker.ts', import.meta.url), { type: 'module' })
  const life = new Life(worker, (error) => {
    dismiss(hand)
    hand.onEnd(error)
  })
  const hand: Hand = { worker, life, onEnd: () => {}, dismissal: undefined }
  return hand
}

function dismiss(hand: Hand): void {
  clearTimeout(hand.dismissal)
  hand.life.close()
  hand.worker.terminate()
  const at = idle.indexOf(hand)
  if (at >= 0) idle.splice(at, 1)
}

/** Lets a worker whose job is done wait for the next one. */
function keep(hand: Hand): void {
  hand.onEnd = () => {}
  hand.worker.onmessage = null
  hand.worker.onerror = () => dismiss(hand)
  hand.life.rest()
  if (idle.length >= MOST_IDLE) dismiss(hand)
  else {
    idle.push(hand)
    hand.dismissal = setTimeout(() => dismiss(hand), IDLE_MS)
  }
}

/**
 * Runs one job on a worker of its own, which cancelling ends at once. Where the worker ends by itself the job is given to
 * another one, once; what is transferred goes with the first: see {@link onceMore}.
 * @throws EngineError with a sentence.
 */
export function runFileJob<N extends FileJobName>(
  name: N,
  input: FileJobs[N]['in'],
  options: FileJobOptions = {},
): Promise<FileJobs[N]['out']> {
  const run = () => runOnce(name, input, options)
  return options.transfer?.length ? run() : onceMore(run)
}

function runOnce<N extends FileJobName>(
  name: N,
  input: FileJobs[N]['in'],
  { signal, onProgress, transfer = [] }: FileJobOptions,
): Promise<FileJobs[N]['out']> {
  return new Promise((resolve, reject) => {
    if (signal?.aborted) return reject(signal.reason)
    const hand = hire()
    const { worker, life } = hand
    const finish = () => signal?.removeEventListener('abort', abort)
    const end = (reason: unknown) => {
      finish()
      dismiss(hand)
      reject(reason)
    }
    const abort = () => end(signal?.reason)
    signal?.addEventListener('abort', abort)
    hand.onEnd = end
    worker.onmessage = (event: MessageEvent<FromFileWorker>) => {
      const message = event.data
      life.hear(message)
      life.work()
      if (message.kind === 'alive') return
      if (message.kind === 'progress') return onProgress?.(message.stage, message.share)
      finish()
      keep(hand)
      if (message.kind === 'done') resolve(message.output as FileJobs[N]['out'])
      else reject(new EngineError(message.sentence))
    }
    worker.onerror = (event) =>
      end(
        new EngineError(`The file could not be processed: ${event.message || 'no reason given'}.`),
      )
    life.work()
    worker.postMessage({ name, input } satisfies ToFileWorker, transfer)
  })
}
