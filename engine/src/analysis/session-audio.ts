import type { TrackAudio } from '@sober-prism/core/chain'
import type { Track } from '@sober-prism/core/session'
import { hasSamples, loadSamples } from '../storage/samples'

/** The audio of a session's tracks. It is read when something has to be computed from it, not before. */
export class SessionAudio {
  private constructor(
    readonly present: readonly Track[],
    /** Tracks whose audio is not in this browser. */
    readonly missing: readonly Track[],
  ) {}

  static async of(tracks: readonly Track[]): Promise<SessionAudio> {
    const there = await Promise.all(tracks.map((t) => hasSamples(t.audio)))
    return new SessionAudio(
      tracks.filter((_, i) => there[i]),
      tracks.filter((_, i) => !there[i]),
    )
  }

  /** The audio of every track that is there, by id. @throws EngineError */
  async all(): Promise<Map<string, TrackAudio>> {
    const audio = new Map<string, TrackAudio>()
    for (const track of this.present) audio.set(track.id, await loadSamples(track.audio))
    return audio
  }
}
