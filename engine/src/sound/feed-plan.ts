import type { Loop } from '@sober-prism/core/mix'
import { SLOT_FRAMES } from './window-source'

/** How far ahead of the play head audio is kept: five slots, 3.4 s at 48 kHz. */
export const AHEAD_FRAMES = 5 * SLOT_FRAMES
/** Frames before a loop's beginning that its end is crossfaded with. */
const LOOP_MARGIN = 4096

/** A stretch of the time line that is going to be played, in the order of time. */
interface Span {
  readonly fromFrame: number
  readonly toFrame: number
}

/** What is going to be played from a place on, with a loop that may bring it back. */
export function spansAhead(frame: number, loop: Loop | null): Span[] {
  const end = frame + AHEAD_FRAMES
  if (!loop || frame >= loop.toFrame || end <= loop.toFrame)
    return [{ fromFrame: frame, toFrame: end }]
  const length = loop.toFrame - loop.fromFrame
  const back = Math.min(end - loop.toFrame, length)
  return [
    { fromFrame: frame, toFrame: loop.toFrame },
    { fromFrame: loop.fromFrame - LOOP_MARGIN, toFrame: loop.fromFrame + back },
  ]
}

/** The places of a recording that spans of the time line ask for, soonest first. */
export function placesIn(spans: readonly Span[], offsetFrames: number, frames: number): number[] {
  const places = new Set<number>()
  for (const { fromFrame, toFrame } of spans) {
    const from = Math.max(0, fromFrame - offsetFrames)
    const to = Math.min(frames, toFrame - offsetFrames)
    for (let p = Math.floor(from / SLOT_FRAMES); p * SLOT_FRAMES < to; p++) places.add(p)
  }
  return [...places]
}
