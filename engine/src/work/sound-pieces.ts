import type { AudioSource } from '@sober-prism/core/audio'
import {
  ChainRun,
  designNow,
  type MixPlan,
  type Stretch,
  streamMix,
  streamRun,
  withDesigns,
} from '@sober-prism/core/mix'
import { openSource } from '../storage/recording-access'
import type { ChainInput, DrawnSound, MixInput } from './tasks'

/** Sound that comes in pieces. */
export type Pieces = AsyncGenerator<readonly Float32Array[]>

/** A mix, or what goes into a group. */
export function mixed(input: MixInput): Pieces {
  return streamMix(designed(input), sourcesOf(input), input.sampleRateHz, input.stretch)
}

/** One sound through its chain. */
export function treated(input: ChainInput): Pieces {
  const { chain, recording, offsetFrames, sampleRateHz, stretch } = input
  const source = openSource(recording)
  const run = new ChainRun(
    chain,
    source,
    offsetFrames,
    sampleRateHz,
    stretch,
    designNow(sampleRateHz),
  )
  return streamRun(run)
}

/** A recording as it is. */
export async function* plain(source: AudioSource, { fromFrame, toFrame }: Stretch): Pieces {
  const PIECE = 65536
  const AHEAD = 6 * PIECE
  for (let at = fromFrame; at < toFrame; at += PIECE) {
    const frames = Math.min(PIECE, toFrame - at)
    if ((at - fromFrame) % AHEAD === 0) {
      await source.prefetch([{ fromFrame: at, toFrame: Math.min(toFrame, at + AHEAD) }])
    }
    yield Array.from({ length: source.channels }, (_, c) => {
      const out = new Float32Array(frames)
      source.read(c, at, out, frames)
      return out
    })
  }
}

/** A plan with what its treatments need ready-made. */
export function designed({ plan, sampleRateHz }: Pick<MixInput, 'plan' | 'sampleRateHz'>): MixPlan {
  return withDesigns(plan, designNow(sampleRateHz))
}

/** Sources of recordings, by their hash. */
export function sourcesOf({ recordings }: Pick<MixInput, 'recordings'>): Map<string, AudioSource> {
  return new Map([...recordings].map(([hash, access]) => [hash, openSource(access)]))
}

/** The pieces of a sound, and in how many channels they come. */
export function piecesOf({
  sound,
  sampleRateHz,
  stretch,
}: {
  readonly sound: DrawnSound
  readonly sampleRateHz: number
  readonly stretch: Stretch
}): { pieces: Pieces; channels: number } {
  switch (sound.of) {
    case 'mix':
      return { pieces: mixed({ ...sound, sampleRateHz, stretch }), channels: 2 }
    case 'chain': {
      const pieces = treated({ ...sound, sampleRateHz, stretch })
      return { pieces, channels: sound.recording.channels }
    }
    case 'recording': {
      const { recording, offsetFrames } = sound
      const own = {
        fromFrame: Math.max(0, stretch.fromFrame - offsetFrames),
        toFrame: Math.max(0, Math.min(recording.frames, stretch.toFrame - offsetFrames)),
      }
      return { pieces: plain(openSource(recording), own), channels: recording.channels }
    }
  }
}
