import type { Sound, Stretch } from '@sober-prism/core/mix'
import { type Session, sessionFrames } from '@sober-prism/core/session'
import type { RecordingAccess } from '../storage/recording-access'

/** Recordings by their hash. */
export type RecordingMap = ReadonlyMap<string, RecordingAccess>

/** A sound over a stretch, with what it is made of: what most questions are about. */
export interface SoundInput {
  readonly sound: Sound
  readonly recordings: RecordingMap
  readonly stretch: Stretch
}

/** Rows of a picture over time that are there while the rest is still being made. */
export interface PicturePart {
  readonly fromRow: number
  readonly levels: Float32Array
}

/** Told how much of a piece of work is done; of pictures, what is there of it. */
export type Progress = (share: number, part?: PicturePart) => void

/** What the page has to go by when something is asked. */
export interface Asking {
  readonly session: Session
  /** The recordings of sounds; null where there is no such sound, or audio that it cannot do without is missing. */
  find(...sounds: readonly (Sound | null)[]): Promise<RecordingMap | null>
}

/**
 * The page's half of a question: from what one wants to know to what a worker needs for it. The worker's half is an
 * {@link Answerer} in the same file; `registry.ts` names both.
 */
export interface Question<Args, Input> {
  /** What is being done, for people. */
  readonly label: string
  /** How many answers are kept while the page is open; its input must be a plain value but for the recordings. */
  readonly keeps?: number
  /** It can wait: whatever else is asked goes before it. */
  readonly waits?: boolean
  /** @returns null where it cannot be asked: audio is missing, or what it is about is gone. */
  prepare(args: Args, asking: Asking): Input | null | Promise<Input | null>
}

/** The worker's half of a question. */
export type Answerer<Input, Answer> = (
  input: Input,
  onProgress: Progress,
) => Answer | Promise<Answer>

/** What a minute tells well enough is not listened to for longer. */
const ENOUGH_SECONDS = 60

/** The passage, or everything. */
export function wholeOf(session: Session): Stretch {
  return session.passage ?? { fromFrame: 0, toFrame: sessionFrames(session) }
}

/** The middle of the passage: what is listened to where a minute tells enough. */
export function middleOf(session: Session): Stretch {
  const { fromFrame, toFrame } = wholeOf(session)
  const length = Math.min(toFrame - fromFrame, ENOUGH_SECONDS * session.sampleRateHz)
  const from = fromFrame + Math.floor((toFrame - fromFrame - length) / 2)
  return { fromFrame: from, toFrame: from + length }
}

/** A sound over a stretch with its recordings; null where they are missing. */
export async function soundInput(
  asking: Asking,
  sound: Sound | null,
  stretch: Stretch,
): Promise<SoundInput | null> {
  const recordings = await asking.find(sound)
  return sound && recordings && { sound, recordings, stretch }
}
