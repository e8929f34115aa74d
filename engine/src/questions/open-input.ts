import { type AudioSource, type Clip, makeClip } from '@sober-prism/core/audio'
import { collectSound, type OpenSound, openSound, type Stretch } from '@sober-prism/core/mix'
import { openSource } from '../storage/recording-access'
import { turn } from '../work/turn'
import type { Progress, RecordingMap, SoundInput } from './question'

/** Sound that comes in pieces. */
export type Pieces = OpenSound['pieces']

/** Sources of recordings, by their hash. */
export function sourcesOf(recordings: RecordingMap): Map<string, AudioSource> {
  return new Map([...recordings].map(([hash, access]) => [hash, openSource(access)]))
}

/** A sound where it is listened to. */
export function openInput({ sound, recordings, stretch }: SoundInput): OpenSound {
  return openSound(sound, sourcesOf(recordings), stretch)
}

export function lengthOf({ fromFrame, toFrame }: Stretch): number {
  return toFrame - fromFrame
}

/** All of a sound in memory: of a short stretch. */
export async function clipOf(input: SoundInput): Promise<Clip> {
  const channels = await collectSound(openInput(input), input.stretch)
  return makeClip(input.sound.sampleRateHz, channels)
}

/** Takes piece after piece, and lets other messages have their turn between. */
export async function follow(
  pieces: Pieces,
  length: number,
  onProgress: Progress,
  take: (piece: readonly Float32Array[]) => void,
): Promise<void> {
  let done = 0
  for await (const piece of pieces) {
    take(piece)
    done += piece[0].length
    onProgress(done / length)
    await turn()
  }
}
