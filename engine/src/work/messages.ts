import type { PicturePart } from '../questions/question'
import type { AnswerName } from '../questions/registry'
import type { ALIVE } from './life'

/** Messages between the pool and its workers. */
export type ToWorker =
  | { readonly kind: 'start'; readonly pffft: ArrayBuffer }
  | {
      readonly kind: 'run'
      readonly name: AnswerName
      readonly input: unknown
      /** In shared memory: the worker sets it to 1 before it begins; a message of that could be lost with the worker. */
      readonly begun: Int32Array
    }
export type FromWorker =
  | typeof ALIVE
  | { readonly kind: 'progress'; readonly share: number; readonly part?: PicturePart }
  | { readonly kind: 'done'; readonly output: unknown }
  /** `isPlain`: the message is a sentence for people. */
  | { readonly kind: 'failed'; readonly message: string; readonly isPlain: boolean }
