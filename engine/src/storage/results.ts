import { database } from './database'

/** Results kept on disk, at most about this many bytes; those that were not used for longest go first. */
const MOST_BYTES = 400e6

/** A kept result of a computation, by what it was computed from; undefined when there is none. */
export async function loadResult(key: string): Promise<unknown> {
  try {
    const value = await (await database()).get('results', key)
    return value === undefined ? undefined : toSharedArrays(value)
  } catch {
    // Without storage everything is computed anew.
    return undefined
  }
}

/** Keeps a result. A full or refused storage only means that it will be computed again. */
export async function keepResult(
  key: string,
  value: unknown,
  mostBytes = MOST_BYTES,
): Promise<void> {
  try {
    const counter = { bytes: 0 }
    const plain = toOwnArrays(value, counter)
    const db = await database()
    const both = db.transaction(['results', 'resultSizes'], 'readwrite')
    await both.objectStore('results').put(plain, key)
    await both.objectStore('resultSizes').put({ bytes: counter.bytes, at: Date.now() }, key)
    await both.done
    await dropOldest(mostBytes)
  } catch {
    // See above.
  }
}

/** Notes that results are in use: what a session needs now outlasts what it needed on the way there. */
export async function touchResults(keys: readonly string[]): Promise<void> {
  try {
    const transaction = (await database()).transaction('resultSizes', 'readwrite')
    const at = Date.now()
    for (const key of keys) {
      const size = await transaction.store.get(key)
      if (size) await transaction.store.put({ ...size, at }, key)
    }
    await transaction.done
  } catch {
    // See above.
  }
}

async function dropOldest(mostBytes: number): Promise<void> {
  const db = await database()
  const keys = await db.getAllKeys('resultSizes')
  const sizes = await db.getAll('resultSizes')
  const entries = keys.map((key, i) => ({ key, ...sizes[i] })).sort((a, b) => a.at - b.at)
  let sum = entries.reduce((total, e) => total + e.bytes, 0)
  for (const { key, bytes } of entries) {
    if (sum <= mostBytes) return
    await db.delete('results', key)
    await db.delete('resultSizes', key)
    sum -= bytes
  }
}

/** Storage does not take shared memory: arrays are copied out of it. */
function toOwnArrays(value: unknown, counter: { bytes: number }): unknown {
  if (ArrayBuffer.isView(value) && !(value instanceof DataView)) {
    counter.bytes += value.byteLength
    return (value as Float32Array).slice()
  }
  if (Array.isArray(value)) return value.map((v) => toOwnArrays(v, counter))
  if (typeof value !== 'object' || value === null) {
    counter.bytes += 8
    return value
  }
  return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, toOwnArrays(v, counter)]))
}

/** Large arrays go back into shared memory, which several workers read. */
export function toSharedArrays(value: unknown): unknown {
  if (value instanceof Float32Array) {
    const shared = new Float32Array(new SharedArrayBuffer(value.byteLength))
    shared.set(value)
    return shared
  }
  if (ArrayBuffer.isView(value)) return value
  if (Array.isArray(value)) return value.map(toSharedArrays)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, toSharedArrays(v)]))
}
