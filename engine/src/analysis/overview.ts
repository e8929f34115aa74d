import { groupsAbove, type Session, sessionFrames } from '@sober-prism/core/session'
import type { RecordingMap } from '../questions/question'
import { PEAK_FRAMES } from '../storage/recordings'

/** How loud a session is over its length: the lower and upper edge of a picture of it. */
export interface Overview {
  readonly low: Float32Array
  readonly high: Float32Array
}

const BUCKETS = 1200

/** The peaks of all tracks that sound, at their faders, added as unrelated sounds add. */
export function overviewOf(session: Session, recordings: RecordingMap): Overview {
  const frames = sessionFrames(session)
  const power = new Float64Array(BUCKETS)
  const peak = new Float64Array(BUCKETS)
  for (const track of session.tracks) {
    const recording = recordings.get(track.audio.hash)
    const above = groupsAbove(session, track.id)
    if (!recording || track.mute || above.some((g) => g.mute)) continue
    const db = above.reduce((sum, g) => sum + g.faderDb, track.faderDb + session.mix.faderDb)
    const gain = 10 ** (db / 20)
    peak.fill(0)
    recording.peaks.forEach((value, i) => {
      const from = i * PEAK_FRAMES + track.offsetFrames
      const first = Math.max(0, Math.floor((from / frames) * BUCKETS))
      const last = Math.min(BUCKETS - 1, Math.floor(((from + PEAK_FRAMES) / frames) * BUCKETS))
      for (let b = first; b <= last; b++) peak[b] = Math.max(peak[b], value * gain)
    })
    for (let b = 0; b < BUCKETS; b++) power[b] += peak[b] * peak[b]
  }
  const high = Float32Array.from(power, (p) => Math.sqrt(p))
  return { high, low: high.map((v) => -v) }
}
