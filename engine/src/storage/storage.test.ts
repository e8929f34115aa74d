import 'fake-indexeddb/auto'
import { emptySession, newTrack, type Session } from '@sober-prism/core/session'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { database } from './database'
import { hashSamples, keepSamples, loadSamples, releaseSamples, storeSamples } from './samples'
import {
  deleteSession,
  journalSession,
  listSessions,
  loadSession,
  restoreSession,
  saveSession,
  tidy,
} from './sessions'

const DAY_MS = 86_400_000
const memory = new Map<string, string>()
vi.stubGlobal('localStorage', {
  getItem: (key: string) => memory.get(key) ?? null,
  setItem: (key: string, value: string) => memory.set(key, value),
})

const channels = [Float32Array.of(0.1, -0.2, 0.3), Float32Array.of(1, 0, -1)]

function session(id: string, hash?: string): Session {
  const made = emptySession(id, `Session ${id}`, '2026-03-04T05:06:07.000Z', 48000)
  if (hash) made.tracks.push(newTrack('t', 'T', 'other', 'A', { hash, channels: 2, frames: 3 }))
  return made
}

beforeEach(async () => {
  memory.clear()
  releaseSamples(new Set())
  const db = await database()
  for (const store of ['sessions', 'samples', 'stamps'] as const) await db.clear(store)
})
afterEach(() => vi.useRealTimers())

describe('samples in storage', () => {
  it('come back to the bit, from storage and into shared memory', async () => {
    const hash = await hashSamples(channels)
    await storeSamples(hash, channels)
    const loaded = await loadSamples({ hash, channels: 2, frames: 3 })
    expect(loaded.map((c) => [...c])).toEqual(channels.map((c) => [...c]))
    expect(loaded[0].buffer).toBeInstanceOf(SharedArrayBuffer)
    expect(await loadSamples({ hash, channels: 2, frames: 3 })).toBe(loaded)
  })

  it('are named by content: any change, or swapped channels, give another name', async () => {
    const [one, two] = channels
    const names = await Promise.all(
      [channels, [two, one], [one], [one, Float32Array.of(1, 0, -0.9999999)]].map(hashSamples),
    )
    expect(new Set(names).size).toBe(4)
    expect(names[0]).toMatch(/^[0-9a-f]{64}$/)
    expect(await hashSamples(channels.map((c) => c.slice()))).toBe(names[0])
  })

  it('that are missing are told in a sentence', async () => {
    await expect(loadSamples({ hash: 'f'.repeat(64), channels: 1, frames: 1 })).rejects.toThrow(
      /not in this browser/,
    )
  })

  it('are stored whole or not at all when the disk is full', async () => {
    const hash = await hashSamples(channels)
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    await expect(storeSamples(hash, channels)).rejects.toThrow(/disk space.*full/)
    put.mockRestore()
    expect(await (await database()).getAllKeys('samples')).toEqual([])
  })
})

describe('sessions in storage', () => {
  it('are listed newest first, and deleting can be undone', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(1000)
    await saveSession(session('a'))
    vi.setSystemTime(2000)
    await saveSession(session('b'))
    expect((await listSessions()).map((s) => s.id)).toEqual(['b', 'a'])
    await deleteSession('b')
    expect((await listSessions()).map((s) => s.id)).toEqual(['a'])
    expect(await loadSession('b')).toBeNull()
    await restoreSession('b')
    expect((await loadSession('b'))?.name).toBe('Session b')
  })

  it('take what the journal kept from a page that closed, if it is newer', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(1000)
    await saveSession(session('a'))
    vi.setSystemTime(2000)
    journalSession({ ...session('a'), name: 'Renamed at the last moment' })
    expect((await loadSession('a'))?.name).toBe('Renamed at the last moment')
    vi.setSystemTime(3000)
    await saveSession({ ...session('a'), name: 'Saved later' })
    expect((await loadSession('a'))?.name).toBe('Saved later')
  })

  it('are checked when they are read: a damaged one is refused, not half-loaded', async () => {
    const damaged = { ...session('a'), sampleRateHz: 'fast' } as unknown as Session
    await saveSession(damaged)
    await expect(loadSession('a')).rejects.toThrow(/sampleRateHz/)
  })
})

describe('tidying', () => {
  const stored = async () => (await (await database()).getAllKeys('samples')).map((key) => key[0])

  it('keeps what a session uses, and what was stored within a day', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(DAY_MS)
    await storeSamples('used', channels)
    await storeSamples('unused', channels)
    await saveSession(session('a', 'used'))
    vi.setSystemTime(2.5 * DAY_MS)
    await storeSamples('fresh', channels)
    await tidy()
    expect([...new Set(await stored())].sort()).toEqual(['fresh', 'used'])
  })

  it('removes a deleted session and its samples after a day, not before', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(DAY_MS)
    await storeSamples('gone', channels)
    await saveSession(session('a', 'gone'))
    await deleteSession('a')
    vi.setSystemTime(1.5 * DAY_MS)
    await tidy()
    expect(await stored()).toHaveLength(2)
    vi.setSystemTime(3 * DAY_MS)
    await tidy()
    expect(await stored()).toEqual([])
    await restoreSession('a')
    expect(await loadSession('a')).toBeNull()
  })

  it('leaves samples in memory alone that are still wanted', () => {
    keepSamples('kept', channels)
    keepSamples('dropped', channels)
    releaseSamples(new Set(['kept']))
    return expect(loadSamples({ hash: 'kept', channels: 2, frames: 3 })).resolves.toBe(channels)
  })
})
