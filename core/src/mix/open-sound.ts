import { type AudioSource, scaled } from '../audio'
import { designNow, type NodeChain, panGains, withDesigns } from './plan'
import { ChainRun, MixRun, type Recordings, requireWhole, type Stretch, streamRun } from './render'
import { type Sound, untreated } from './sound'

/** Sound that comes in pieces, and in how many channels. */
export interface OpenSound {
  readonly channels: number
  readonly pieces: AsyncGenerator<readonly Float32Array[]>
}

/**
 * A stretch of a sound, to be read piece by piece: aligned with its recordings whatever its chain's latency is.
 * @param recordings by hash; what a mix has of nodes without theirs is silent. @throws Error where the only one is missing.
 */
export function openSound(sound: Sound, recordings: Recordings, stretch: Stretch): OpenSound {
  const { channels } = sound
  return { channels, pieces: piecesOf(sound, recordings, stretch) }
}

function piecesOf(sound: Sound, recordings: Recordings, stretch: Stretch): OpenSound['pieces'] {
  const { sampleRateHz, channels } = sound
  const design = designNow(sampleRateHz)
  if (sound.of === 'mix') {
    const plan = withDesigns(sound.plan, design)
    const pieces = streamRun(new MixRun(plan, recordings, sampleRateHz, stretch))
    return channels === 2 ? pieces : firstOf(pieces)
  }
  const source = recordings.get(sound.source)
  if (!source) throw new Error('The recording of a sound is not at hand.')
  const plain = untreated(sound)
  if (plain) return readPieces(source, plain.offsetFrames, plain.gain, stretch)
  const chain = { ...sound.chain, treatments: withDesignsOf(sound.chain, design) }
  const pieces = streamRun(new ChainRun(chain, source, sound.offsetFrames, sampleRateHz, stretch))
  return sound.pan === null ? pieces : placed(pieces, panGains(sound.pan, source.channels))
}

function withDesignsOf({ treatments }: NodeChain, design: ReturnType<typeof designNow>) {
  return treatments.map((t) => ({ ...t, design: design(t.kind, t.params, t.id, '') }))
}

async function* firstOf(pieces: AsyncIterable<readonly Float32Array[]>): OpenSound['pieces'] {
  for await (const piece of pieces) yield piece.slice(0, 1)
}

/** Sound at a place between left and right. */
export async function* placed(
  pieces: AsyncIterable<readonly Float32Array[]>,
  [left, right]: readonly [number, number],
): OpenSound['pieces'] {
  for await (const [a, b = a] of pieces) {
    yield a !== b && left === 1 && right === 1 ? [a, b] : [scaled(a, left), scaled(b, right)]
  }
}

const PIECE_FRAMES = 65536
/** Frames that are brought to hand in one go. */
const AHEAD_FRAMES = 6 * PIECE_FRAMES

async function* readPieces(
  source: AudioSource,
  offsetFrames: number,
  gain: number,
  stretch: Stretch,
): OpenSound['pieces'] {
  const [fromFrame, toFrame] = [stretch.fromFrame - offsetFrames, stretch.toFrame - offsetFrames]
  for (let at = fromFrame; at < toFrame; at += PIECE_FRAMES) {
    const frames = Math.min(PIECE_FRAMES, toFrame - at)
    if ((at - fromFrame) % AHEAD_FRAMES === 0) {
      await source.prefetch([{ fromFrame: at, toFrame: Math.min(toFrame, at + AHEAD_FRAMES) }])
    }
    yield Array.from({ length: source.channels }, (_, c) => {
      const out = new Float32Array(frames)
      requireWhole(source.read(c, at, out, frames))
      return gain === 1 ? out : scaled(out, gain)
    })
  }
}

/** All of a stretch in memory: for short ones. */
export async function collectSound(
  { channels, pieces }: OpenSound,
  { fromFrame, toFrame }: Stretch,
): Promise<Float32Array[]> {
  const out = Array.from({ length: channels }, () => new Float32Array(toFrame - fromFrame))
  let at = 0
  for await (const piece of pieces) {
    out.forEach((channel, c) => {
      channel.set(piece[c], at)
    })
    at += piece[0].length
  }
  return out
}
