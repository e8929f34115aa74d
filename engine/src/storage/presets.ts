import { type Preset, parsePresetFile, writePresetFile } from '@sober-prism/core/session'
import { database, storageError } from './database'

/** A preset of the user's, by its id in this browser. */
export interface KeptPreset extends Preset {
  readonly id: string
}

/** All presets that can be read, oldest first, and how many cannot. @throws EngineError */
export async function listPresets(): Promise<{ presets: KeptPreset[]; unreadable: number }> {
  const stored = await attempt(async () => (await database()).getAll('presets'))
  const presets: KeptPreset[] = []
  for (const { id, file } of stored.sort((a, b) => a.storedAt - b.storedAt)) {
    const read = readOne(file)
    if (read) presets.push({ ...read, id })
  }
  return { presets, unreadable: stored.length - presets.length }
}

/** What cannot be read stays where it is: a later version may read it. */
function readOne(file: string): Preset | null {
  try {
    return parsePresetFile(file)[0] ?? null
  } catch {
    return null
  }
}

/** Keeps presets, all of them or none; one with an id takes that one's place. @throws EngineError */
export async function keepPresets(presets: readonly (Preset & { id?: string })[]): Promise<void> {
  await attempt(async () => {
    const transaction = (await database()).transaction('presets', 'readwrite')
    const now = Date.now()
    for (const [i, preset] of presets.entries()) {
      const id = preset.id ?? crypto.randomUUID()
      const before = await transaction.store.get(id)
      const storedAt = before?.storedAt ?? now + i
      await transaction.store.put({ id, file: writePresetFile([preset]), storedAt })
    }
    await transaction.done
  })
}

/** @throws EngineError */
export async function deletePreset(id: string): Promise<void> {
  await attempt(async () => (await database()).delete('presets', id))
}

async function attempt<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    throw storageError(error)
  }
}
