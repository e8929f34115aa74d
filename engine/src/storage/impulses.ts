import { type Clip, readAudio } from '@sober-prism/core/audio'
import { EngineError } from '../engine-error'
import { database, type StoredImpulse, storageError } from './database'

const LONGEST_SECONDS = 10

/** All recordings of impulses, oldest first. @throws EngineError */
export async function listImpulses(): Promise<StoredImpulse[]> {
  const all = await attempt(async () => (await database()).getAll('impulses'))
  return all.sort((a, b) => a.storedAt - b.storedAt)
}

/** Takes a WAV or AIFF file in and keeps it. @throws EngineError that says what is wrong with it. */
export async function keepImpulse(file: File): Promise<StoredImpulse> {
  const { sampleRateHz, channels, frames } = readImpulse(
    new Uint8Array(await file.arrayBuffer()),
    file.name,
  )
  if (channels.length > 2) throw new EngineError(`${file.name} has more than two channels.`)
  if (frames > LONGEST_SECONDS * sampleRateHz) {
    throw new EngineError(
      `${file.name} is longer than ${LONGEST_SECONDS} s: an impulse response is shorter.`,
    )
  }
  if (channels.every((c) => c.every((v) => v === 0))) {
    throw new EngineError(`${file.name} is silent.`)
  }
  const impulse = {
    id: crypto.randomUUID(),
    name: file.name.replace(/\.[a-z0-9]+$/i, '').slice(0, 80),
    sampleRateHz,
    channels: channels.map((c) => c.slice()),
    storedAt: Date.now(),
  }
  await attempt(async () => (await database()).put('impulses', impulse))
  return impulse
}

function readImpulse(bytes: Uint8Array<ArrayBuffer>, name: string): Clip {
  try {
    return readAudio(bytes)
  } catch {
    throw new EngineError(`${name} cannot be read: an impulse response is a WAV or AIFF file.`)
  }
}

/** @throws EngineError */
export async function deleteImpulse(id: string): Promise<void> {
  await attempt(async () => (await database()).delete('impulses', id))
}

async function attempt<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    throw storageError(error)
  }
}
