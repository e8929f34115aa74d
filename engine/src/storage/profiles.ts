import type { Profile } from '@sober-prism/core/match'
import { parseProfile, writeProfile } from '@sober-prism/core/session'
import { database, storageError } from './database'

/** A profile of the library, by its id in this browser. */
export interface KeptProfile {
  readonly id: string
  readonly profile: Profile
}

/** All profiles that can be read, newest first, and how many cannot. @throws EngineError */
export async function listProfiles(): Promise<{ profiles: KeptProfile[]; unreadable: number }> {
  const stored = await attempt(async () => (await database()).getAll('profiles'))
  const profiles: KeptProfile[] = []
  for (const { id, file } of stored.sort((a, b) => b.storedAt - a.storedAt)) {
    const profile = readOne(file)
    if (profile) profiles.push({ id, profile })
  }
  return { profiles, unreadable: stored.length - profiles.length }
}

/** What cannot be read stays where it is: a later version may read it. */
function readOne(file: string): Profile | null {
  try {
    return parseProfile(file)
  } catch {
    return null
  }
}

/** Keeps a profile; one with an id takes that one's place. @returns its id. @throws EngineError */
export async function keepProfile(profile: Profile, known?: string): Promise<string> {
  const id = known ?? crypto.randomUUID()
  await attempt(async () => {
    const transaction = (await database()).transaction('profiles', 'readwrite')
    const before = await transaction.store.get(id)
    const storedAt = before?.storedAt ?? Date.now()
    await transaction.store.put({ id, file: writeProfile(profile), storedAt })
    await transaction.done
  })
  return id
}

/** @throws EngineError */
export async function deleteProfile(id: string): Promise<void> {
  await attempt(async () => (await database()).delete('profiles', id))
}

async function attempt<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    throw storageError(error)
  }
}
