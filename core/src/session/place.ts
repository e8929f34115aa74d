import type { Session } from './schema'

const DAY_SECONDS = 86_400

/**
 * Where a recording stands on the session's time line, by its time of day. The first one with a time
 * stamp sets the origin; one that began earlier moves everything that is there to later.
 * @param stampSeconds seconds since midnight at its first frame, `null` without a time stamp.
 * @returns its offset, and how far tracks that are there already must move, both in frames.
 */
export function placeOnTimeLine(
  session: Pick<Session, 'timeOriginSeconds' | 'sampleRateHz'>,
  stampSeconds: number | null,
): { offsetFrames: number; moveOthersFrames: number; timeOriginSeconds: number | null } {
  const origin = session.timeOriginSeconds
  // A stamp beyond a day is none: the file's header is spoiled.
  if (stampSeconds === null || !(stampSeconds < DAY_SECONDS)) {
    return { offsetFrames: 0, moveOthersFrames: 0, timeOriginSeconds: origin }
  }
  // Adding zero takes the sign from a zero.
  const frames = Math.round((stampSeconds - (origin ?? stampSeconds)) * session.sampleRateHz) + 0
  return frames >= 0
    ? { offsetFrames: frames, moveOthersFrames: 0, timeOriginSeconds: origin ?? stampSeconds }
    : { offsetFrames: 0, moveOthersFrames: -frames, timeOriginSeconds: stampSeconds }
}
