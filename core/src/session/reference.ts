import { sessionFrames } from './defaults'
import type { Passage, Reference, Session } from './schema'

/**
 * What of a reference is listened to, in its own frames: its own passage as far as it reaches, else as much of its middle
 * as the session's passage is long.
 */
export function referencePassage(session: Session, { audio, passage }: Reference): Passage {
  const toFrame = Math.min(passage?.toFrame ?? 0, audio.frames)
  if (passage && passage.fromFrame < toFrame) return { fromFrame: passage.fromFrame, toFrame }
  const wanted = session.passage
    ? session.passage.toFrame - session.passage.fromFrame
    : sessionFrames(session)
  const length = Math.min(wanted || audio.frames, audio.frames)
  const fromFrame = Math.floor((audio.frames - length) / 2)
  return { fromFrame, toFrame: fromFrame + length }
}
