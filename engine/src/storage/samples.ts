import type { TrackAudio } from '@sober-prism/core/chain'
import type { AudioRef } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { database, storageError } from './database'

/** Samples in shared memory by content hash: page, workers and worklet read the same bytes. */
const loaded = new Map<string, TrackAudio>()

/** Makes an empty channel in shared memory. */
export function sharedChannel(frames: number): Float32Array<SharedArrayBuffer> {
  try {
    return new Float32Array(new SharedArrayBuffer(frames * 4))
  } catch {
    throw new EngineError(
      'There is not enough memory for this audio. Close other pages, or use fewer tracks.',
    )
  }
}

/** Stores samples, all channels or none, and keeps them in memory. @throws EngineError */
export async function storeSamples(hash: string, channels: readonly Float32Array[]): Promise<void> {
  const shared = channels.map((channel) => {
    const copy = sharedChannel(channel.length)
    copy.set(channel)
    return copy
  })
  const db = await database()
  try {
    const transaction = db.transaction('samples', 'readwrite')
    const puts = channels.map((channel, index) =>
      transaction.store.put(channel.slice().buffer as ArrayBuffer, [hash, index]),
    )
    await Promise.all([...puts, transaction.done])
  } catch (error) {
    throw storageError(error)
  }
  loaded.set(hash, shared)
}

/** The samples of a track or reference, from memory or storage. @throws EngineError when they are gone. */
export async function loadSamples(audio: AudioRef): Promise<TrackAudio> {
  const present = loaded.get(audio.hash)
  if (present) return present
  const db = await database()
  const channels: Float32Array[] = []
  for (let index = 0; index < audio.channels; index++) {
    const buffer = await db.get('samples', [audio.hash, index])
    if (!buffer)
      throw new EngineError('Its audio is no longer in this browser; bring the file in again.')
    const shared = sharedChannel(buffer.byteLength / 4)
    shared.set(new Float32Array(buffer))
    channels.push(shared)
  }
  loaded.set(audio.hash, channels)
  return channels
}

/** The samples if they are in memory already. */
export function samplesInMemory(hash: string): TrackAudio | null {
  return loaded.get(hash) ?? null
}

/** True when the samples are in storage already. */
export async function hasSamples(hash: string): Promise<boolean> {
  return (await (await database()).getKey('samples', [hash, 0])) !== undefined
}

/** Lets go of samples that none of the hashes names, when a session closes. */
export function releaseSamples(keep: ReadonlySet<string>): void {
  for (const hash of loaded.keys()) if (!keep.has(hash)) loaded.delete(hash)
}
