import type { TrackAudio } from '@sober-prism/core/chain'
import type { AudioRef } from '@sober-prism/core/session'
import { EngineError } from '../engine-error'
import { database, storageError } from './database'

/** Samples in shared memory by content hash: page, workers and worklet read the same bytes. */
const loaded = new Map<string, TrackAudio>()

/** Makes an empty channel in shared memory. @throws EngineError when there is no room. */
export function sharedChannel(frames: number): Float32Array<SharedArrayBuffer> {
  try {
    return new Float32Array(new SharedArrayBuffer(frames * 4))
  } catch {
    throw new EngineError(
      'There is not enough memory for this audio. Close other pages, or use fewer tracks.',
    )
  }
}

/** Copies channels into shared memory. */
export function toShared(channels: readonly Float32Array[]): Float32Array[] {
  return channels.map((channel) => {
    const shared = sharedChannel(channel.length)
    shared.set(channel)
    return shared
  })
}

/** Names samples by their content: SHA-256 over the digests of the channels, in hexadecimal. */
export async function hashSamples(channels: readonly Float32Array[]): Promise<string> {
  const digests = await Promise.all(
    channels.map((c) => crypto.subtle.digest('SHA-256', c as Float32Array<ArrayBuffer>)),
  )
  const joined = new Uint8Array(32 * digests.length)
  digests.forEach((digest, i) => {
    joined.set(new Uint8Array(digest), 32 * i)
  })
  const hash = new Uint8Array(await crypto.subtle.digest('SHA-256', joined))
  return Array.from(hash, (byte) => byte.toString(16).padStart(2, '0')).join('')
}

/** Stores samples, all channels or none; what is there already is not written again. @throws EngineError */
export async function storeSamples(hash: string, channels: readonly Float32Array[]): Promise<void> {
  const db = await database()
  try {
    const transaction = db.transaction(['samples', 'stamps'], 'readwrite')
    const samples = transaction.objectStore('samples')
    const puts: Promise<unknown>[] = [transaction.objectStore('stamps').put(Date.now(), hash)]
    if ((await samples.getKey([hash, 0])) === undefined) {
      for (const [index, channel] of channels.entries()) {
        puts.push(samples.put(channel.slice().buffer as ArrayBuffer, [hash, index]))
      }
    }
    await Promise.all([...puts, transaction.done])
  } catch (error) {
    throw storageError(error)
  }
}

/** Keeps samples that lie in shared memory at hand, so that they need not be read again. */
export function keepSamples(hash: string, channels: TrackAudio): void {
  loaded.set(hash, channels)
}

/** Whether the samples of a track are in memory or storage. */
export async function hasSamples(audio: AudioRef): Promise<boolean> {
  if (loaded.has(audio.hash)) return true
  const db = await database()
  const last = await db.getKey('samples', [audio.hash, audio.channels - 1])
  return last !== undefined
}

/** Samples on their way from storage. Only one recording is read at a time: they are large. */
const loading = new Map<string, Promise<TrackAudio>>()
let reading: Promise<unknown> = Promise.resolve()

/** The samples of a track or reference, from memory or storage. @throws EngineError when they are gone. */
export async function loadSamples(audio: AudioRef): Promise<TrackAudio> {
  const present = loaded.get(audio.hash) ?? loading.get(audio.hash)
  if (present) return present
  const load = reading.then(
    () => loaded.get(audio.hash) ?? readSamples(audio),
    () => readSamples(audio),
  )
  reading = load
  loading.set(audio.hash, load)
  return load.finally(() => loading.delete(audio.hash))
}

async function readSamples(audio: AudioRef): Promise<TrackAudio> {
  const db = await database()
  const channels: Float32Array[] = []
  for (let index = 0; index < audio.channels; index++) {
    const buffer = await db.get('samples', [audio.hash, index])
    if (!buffer) {
      throw new EngineError('Its audio is not in this browser; bring the file in again.')
    }
    const shared = sharedChannel(buffer.byteLength / 4)
    await copyInPieces(new Float32Array(buffer), shared)
    channels.push(shared)
  }
  loaded.set(audio.hash, channels)
  return channels
}

/** Frames that are copied at one go: long recordings must not hold the page up. */
const PIECE_FRAMES = 2 ** 21

async function copyInPieces(from: Float32Array, to: Float32Array): Promise<void> {
  for (let at = 0; at < from.length; at += PIECE_FRAMES) {
    if (at > 0) await new Promise((resolve) => setTimeout(resolve))
    to.set(from.subarray(at, at + PIECE_FRAMES), at)
  }
}

/** Lets go of samples in memory that none of the hashes names. */
export function releaseSamples(keep: ReadonlySet<string>): void {
  for (const hash of loaded.keys()) if (!keep.has(hash)) loaded.delete(hash)
}
