import type { WavBits } from '@sober-prism/core/audio'
import { renderPlan, type TrackAudio } from '@sober-prism/core/chain'
import { type Session, sessionFrames } from '@sober-prism/core/session'
import { loadSamples } from '../storage/samples'
import type { WorkerPool } from '../work/worker-pool'

/** A finished file. */
export interface RenderedFile {
  readonly name: string
  readonly blob: Blob
  readonly lufs: number | null
  readonly truePeakDbtp: number | null
}

export interface RenderChoice {
  readonly mix: boolean
  readonly tracks: boolean
  readonly bits: WavBits
}

/**
 * Renders the whole session: the mix, and each track through its chain before fader and pan, all from
 * the session's start and of its length. @throws EngineError; an aborted `signal` gives its reason.
 */
export async function renderSession(
  session: Session,
  choice: RenderChoice,
  pool: WorkerPool,
  onProgress: (what: string, share: number) => void,
  signal: AbortSignal,
): Promise<RenderedFile[]> {
  const { sampleRateHz } = session
  const stretch = { fromFrame: 0, toFrame: sessionFrames(session) }
  const audio = new Map<string, TrackAudio>()
  for (const track of session.tracks) audio.set(track.id, await loadSamples(track.audio))
  const files: RenderedFile[] = []
  const steps = (choice.mix ? 1 : 0) + (choice.tracks ? session.tracks.length : 0)
  const follow = (what: string) => {
    onProgress(what, files.length / steps)
    return (share: number) => onProgress(what, (files.length + share) / steps)
  }
  if (choice.mix) {
    const { bytes, lufs, truePeakDbtp } = await pool.run(
      'renderMix',
      { plan: renderPlan(session), audio, sampleRateHz, stretch, bits: choice.bits },
      { signal, onProgress: follow('Mix') },
    )
    files.push({ name: `${fileName(session.name)}.wav`, blob: wav(bytes), lufs, truePeakDbtp })
  }
  for (const track of choice.tracks ? session.tracks : []) {
    const { bytes, lufs, truePeakDbtp } = await pool.run(
      'renderTrack',
      {
        chain: track.chain,
        audio: audio.get(track.id) ?? [],
        pan: track.pan,
        offsetFrames: track.offsetFrames,
        sampleRateHz,
        stretch,
        bits: choice.bits,
      },
      { signal, onProgress: follow(track.name) },
    )
    const name = `${fileName(session.name)} ${track.letter} ${fileName(track.name)}.wav`
    files.push({ name, blob: wav(bytes), lufs, truePeakDbtp })
  }
  return files
}

/** A name that every file system takes. */
export function fileName(name: string): string {
  const kept = name.replace(/[^\p{L}\p{N} _-]/gu, '_').trim()
  return kept === '' ? 'untitled' : kept
}

function wav(bytes: Uint8Array<ArrayBuffer>): Blob {
  return new Blob([bytes], { type: 'audio/wav' })
}
