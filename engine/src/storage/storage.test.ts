import 'fake-indexeddb/auto'
import { emptySession, newTrack, type Session } from '@sober-prism/core/session'
import fc from 'fast-check'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { BlockSource } from './block-source'
import { database } from './database'
import { RecordingShelf } from './recording-access'
import { BLOCK_FRAMES, findRecording, readBlocks, storeRecording } from './recordings'
import { keepResult, loadResult, touchResults } from './results'
import {
  ConflictError,
  deleteSession,
  exportRaw,
  journalSession,
  listSessions,
  loadSession,
  restoreLastGood,
  restoreSession,
  saveSession,
  takeOverSession,
  UnreadableError,
} from './sessions'
import { tidy } from './tidy'

const DAY_MS = 86_400_000
const STORES = [
  'sessions',
  'journal',
  'versions',
  'recordings',
  'blocks',
  'samples',
  'stamps',
] as const
const channels = [Float32Array.of(0.1, -0.2, 0.3), Float32Array.of(1, 0, -1)]
/** Long enough for three blocks; the second channel could be stored as 16-bit numbers, the first not. */
const long = [
  Float32Array.from({ length: 2 * BLOCK_FRAMES + 77 }, (_, i) => Math.sin(i / 50)),
  Float32Array.from({ length: 2 * BLOCK_FRAMES + 77 }, (_, i) => ((i % 200) - 100) / 32768),
]

function session(id: string, hash?: string): Session {
  const made = emptySession(id, `Session ${id}`, '2026-03-04T05:06:07.000Z', 48000)
  if (hash) made.tracks.push(newTrack('t', 'T', 'other', 'A', { hash, channels: 2, frames: 3 }))
  return made
}

function named(name: string): Session {
  return { ...session('a'), name }
}

async function nameNow(): Promise<string | undefined> {
  return (await loadSession('a'))?.session.name
}

/** Another window stores a newer state. */
async function theyStore(name: string): Promise<void> {
  const db = await database()
  const stored = await db.get('sessions', 'a')
  if (!stored) throw new Error('It is not there.')
  const revision = (stored.revision ?? 0) + 1
  await db.put('sessions', {
    ...stored,
    document: named(name),
    revision,
    writer: 'they',
    change: 1,
  })
}

async function spoil(id: string): Promise<void> {
  const db = await database()
  const stored = await db.get('sessions', id)
  if (!stored) throw new Error('It is not there.')
  const document = { ...(stored.document as Session), sampleRateHz: 'fast' }
  await db.put('sessions', { ...stored, document })
}

beforeEach(async () => {
  const db = await database()
  for (const store of STORES) {
    await db.clear(store)
  }
})
afterEach(() => vi.useRealTimers())

describe('recordings in storage', () => {
  it.each([
    ['floats', long],
    ['16-bit numbers', [long[1], long[1].map((v) => 0 - v)]],
    ['numbers with zero below zero', [long[1].map((v) => -v), long[1]]],
  ])('come back to the bit, as %s', async (_, sound) => {
    const audio = await storeRecording(sound)
    expect(audio).toMatchObject({ channels: 2, frames: long[0].length })
    const stored = await findRecording(audio)
    if (!stored) throw new Error('It is not there.')
    const blocks = await readBlocks(stored, 0, 2)
    sound.forEach((channel, c) => {
      const back = Float32Array.from(blocks.flatMap((b) => [...b[c]]))
      const bits = (x: Float32Array) => new Uint32Array(x.buffer, x.byteOffset, x.length)
      expect(back.length).toBe(channel.length)
      expect(bits(back).every((word, i) => word === bits(channel)[i])).toBe(true)
    })
    expect(stored.peaks.length).toBe(Math.ceil(long[0].length / 1024))
  })

  it('are named by content: any change, or swapped channels, give another name', async () => {
    const [one, two] = channels
    const names: string[] = []
    for (const sound of [channels, [two, one], [one], [one, Float32Array.of(1, 0, -0.9999999)]]) {
      names.push((await storeRecording(sound)).hash)
    }
    expect(new Set(names).size).toBe(4)
    // SHA-256 over the digests of the channels, as earlier versions named them.
    const digest = async (bytes: Uint8Array<ArrayBuffer>) =>
      new Uint8Array(await crypto.subtle.digest('SHA-256', bytes))
    const parts = await Promise.all(channels.map((c) => digest(new Uint8Array(c.buffer))))
    const whole = await digest(Uint8Array.from(parts.flatMap((p) => [...p])))
    const hex = Array.from(whole, (b) => b.toString(16).padStart(2, '0')).join('')
    expect(names[0]).toBe(hex)
  })

  it('that are there already are not stored twice', async () => {
    await storeRecording(long)
    await storeRecording(long)
    expect(await (await database()).count('blocks')).toBe(3)
  })

  it('of earlier versions, stored as whole channels, still open', async () => {
    const { hash } = await storeRecording(channels)
    const db = await database()
    await db.clear('recordings')
    await db.clear('blocks')
    for (const [c, channel] of channels.entries()) {
      await db.put('samples', channel.slice().buffer as ArrayBuffer, [hash, c])
    }
    const stored = await findRecording({ hash, channels: 2, frames: 3 })
    if (!stored) throw new Error('It is not there.')
    expect((await readBlocks(stored, 0, 0))[0]).toEqual(channels)
    expect(await db.count('samples')).toBe(0)
  })

  it('are stored whole or not at all when the disk is full, and say so', async () => {
    const put = vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    await expect(storeRecording(long)).rejects.toThrow(/storage is full/)
    put.mockRestore()
    const db = await database()
    expect([await db.count('blocks'), await db.count('recordings')]).toEqual([0, 0])
  })

  it('are read by windows, with silence around them and nothing kept that is behind', async () => {
    const audio = await storeRecording(long)
    const stored = await findRecording(audio)
    if (!stored) throw new Error('It is not there.')
    const source = new BlockSource(stored)
    const place = fc.integer({ min: -500, max: long[0].length + 500 })
    await fc.assert(
      fc.asyncProperty(place, fc.integer({ min: 1, max: 3000 }), async (from, frames) => {
        const out = new Float32Array(frames)
        await source.prefetch([{ fromFrame: from, toFrame: from + frames }])
        expect(source.read(0, from, out, frames)).toBe(true)
        for (let i = 0; i < frames; i++) expect(out[i]).toBe(long[0][from + i] ?? 0)
        const view = source.view(1, from, frames)
        if (view) expect(view).toEqual(long[1].subarray(from, from + frames))
      }),
      { numRuns: 25 },
    )
    await source.prefetch([{ fromFrame: 0, toFrame: 100 }])
    expect(source.read(0, 2 * BLOCK_FRAMES, new Float32Array(10), 10)).toBe(false)
  })

  it('of a short session are held in memory, of a long one by windows; what is missing is left out', async () => {
    const audio = await storeRecording(long)
    const gone = { hash: 'f'.repeat(64), channels: 1, frames: 1 }
    const short = await new RecordingShelf().find([audio, gone])
    expect([...short.keys()]).toEqual([audio.hash])
    expect(short.get(audio.hash)?.memory?.[0]).toEqual(long[0])
    expect(short.get(audio.hash)?.memory?.[0].buffer).toBeInstanceOf(SharedArrayBuffer)
    const large = await new RecordingShelf(1000).find([audio])
    expect(large.get(audio.hash)?.memory).toBeNull()
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
    expect((await loadSession('b'))?.session.name).toBe('Session b')
  })

  it('take what the journal kept from a window that closed, whatever the clock said, and write it back', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(2000)
    await saveSession(named('First'))
    vi.setSystemTime(1000)
    await journalSession(named('At the last moment'), 1)
    expect(await nameNow()).toBe('At the last moment')
    const db = await database()
    expect(await db.count('journal')).toBe(0)
    expect((await db.get('sessions', 'a'))?.document).toMatchObject({ name: 'At the last moment' })
  })

  it('have a journal of their own each', async () => {
    for (const id of ['a', 'b']) await saveSession(session(id))
    await journalSession({ ...session('a'), name: 'A, edited' }, 1)
    await journalSession({ ...session('b'), name: 'B, edited' }, 2)
    expect((await loadSession('a'))?.session.name).toBe('A, edited')
    expect((await loadSession('b'))?.session.name).toBe('B, edited')
  })

  it('keep changes that another window overtook as a session of their own', async () => {
    await saveSession(named('First'))
    await journalSession(named('Mine, not stored'), 1)
    await theyStore('Theirs')
    const loaded = await loadSession('a')
    expect(loaded?.session.name).toBe('Theirs')
    const rescued = await loadSession(loaded?.rescued[0] ?? '')
    expect(rescued?.session.name).toBe('Mine, not stored (changes from another window)')
  })

  it('are opened though the journal is damaged or newer, which is set aside', async () => {
    await saveSession(named('Good'))
    const newer = { ...session('a'), version: 99, name: 'Newer' } as unknown as Session
    await journalSession(newer, 1)
    expect(await nameNow()).toBe('Good')
    expect(await exportRaw('a')).toContain('Newer')
  })

  it('are opened from the journal where the stored one is damaged', async () => {
    await saveSession(named('Good'))
    await journalSession(named('Fresh'), 1)
    await spoil('a')
    expect(await nameNow()).toBe('Fresh')
  })

  it('that cannot be read are told, exported as they are, and go back to the last good state', async () => {
    await saveSession(named('Good'))
    await saveSession(session('b'))
    await spoil('a')
    const error = await loadSession('a').catch((e: unknown) => e)
    expect(error).toBeInstanceOf(UnreadableError)
    expect((error as UnreadableError).message).toMatch(/sampleRateHz/)
    expect(JSON.parse(await exportRaw('a')).stored.document.sampleRateHz).toBe('fast')
    const list = await listSessions()
    expect(list.map((e) => e.id).sort()).toEqual(['a', 'b'])
    expect((await restoreLastGood('a'))?.name).toBe('Good')
    expect(await nameNow()).toBe('Good')
    // What could not be read is still there.
    expect(await exportRaw('a')).toContain('fast')
  })

  it('do not hide each other: one record without a document leaves the list whole', async () => {
    await saveSession(session('a'))
    const db = await database()
    for (const document of [null, 7, { name: 5, tracks: 'x' }]) {
      const odd = {
        id: `odd-${String(document)}`,
        document,
        updatedAt: Number.NaN,
        deletedAt: null,
      }
      await db.put('sessions', odd)
    }
    const list = await listSessions()
    expect(list).toHaveLength(4)
    expect(list.filter((e) => e.name === 'A session that cannot be read')).toHaveLength(3)
  })

  it('are not stored where their reader would refuse them', async () => {
    const damaged = { ...session('a'), sampleRateHz: 'fast' } as unknown as Session
    await expect(saveSession(damaged)).rejects.toThrow(/sampleRateHz/)
    expect(await loadSession('a')).toBeNull()
  })

  it('deleted in another window do not come back by an edit here', async () => {
    await saveSession(session('a'))
    await loadSession('a')
    await deleteSession('a')
    await expect(saveSession(named('Edited'))).rejects.toThrow(ConflictError)
    expect(await listSessions()).toEqual([])
    await takeOverSession('a')
    await saveSession(named('Edited'))
    expect(await nameNow()).toBe('Edited')
  })

  it('are not overwritten by a window that read an older state, unless it takes over', async () => {
    await saveSession(session('a'))
    await loadSession('a')
    await theyStore('Theirs')
    const db = await database()
    const mine = { ...session('a'), name: 'Mine' }
    await expect(saveSession(mine)).rejects.toThrow(ConflictError)
    expect((await db.get('sessions', 'a'))?.document).toMatchObject({ name: 'Theirs' })
    await takeOverSession('a')
    await saveSession(mine)
    expect((await db.get('sessions', 'a'))?.document).toMatchObject({ name: 'Mine' })
  })
})

describe('results of measuring', () => {
  it('that are in use outlast those that were needed on the way', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    const sized = () => new Float32Array(250)
    for (const [at, key] of ['first', 'second', 'third'].entries()) {
      vi.setSystemTime(1000 * (at + 1))
      await keepResult(key, sized(), 3000)
    }
    vi.setSystemTime(5000)
    await touchResults(['first', 'third', 'never kept'])
    vi.setSystemTime(6000)
    await keepResult('fourth', sized(), 3000)
    const there = async (key: string) => (await loadResult(key)) !== undefined
    expect(await Promise.all(['first', 'second', 'third', 'fourth'].map(there))).toEqual([
      true,
      false,
      true,
      true,
    ])
  })

  it('kept come back as they were, arrays of every kind among them', async () => {
    const kept = {
      frames: Int32Array.of(-5, 7),
      levels: new Float32Array(new SharedArrayBuffer(8)),
      sums: Float64Array.of(1e-9, 2),
      none: null,
      list: [{ bytes: Uint8Array.of(1, 2) }],
    }
    await keepResult('all kinds', kept)
    const back = (await loadResult('all kinds')) as typeof kept
    expect(back.frames).toEqual(kept.frames)
    expect(back.sums).toEqual(kept.sums)
    expect([...back.levels]).toEqual([0, 0])
    expect(back.none).toBeNull()
    expect(back.list[0].bytes).toEqual(kept.list[0].bytes)
  })
})

describe('tidying', () => {
  const stored = async () => {
    const db = await database()
    return [await db.count('recordings'), await db.count('blocks')]
  }

  it('keeps what a session uses, and what was stored within a day', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(DAY_MS)
    const used = await storeRecording(channels)
    await storeRecording([channels[0]])
    await saveSession(session('a', used.hash))
    vi.setSystemTime(2.5 * DAY_MS)
    const fresh = await storeRecording([channels[1]])
    await tidy()
    const keys = await (await database()).getAllKeys('recordings')
    expect(keys.sort()).toEqual([used.hash, fresh.hash].sort())
    expect(await stored()).toEqual([2, 2])
  })

  it('removes a deleted session and its recordings after a day, not before', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(DAY_MS)
    const { hash } = await storeRecording(channels)
    await saveSession(session('a', hash))
    await deleteSession('a')
    vi.setSystemTime(1.5 * DAY_MS)
    await tidy()
    expect(await stored()).toEqual([1, 1])
    vi.setSystemTime(3 * DAY_MS)
    await tidy()
    expect(await stored()).toEqual([0, 0])
    await restoreSession('a')
    expect(await loadSession('a')).toBeNull()
  })

  it('takes away blocks of a recording that never arrived', async () => {
    const db = await database()
    await db.put('blocks', Float32Array.of(1), ['1000-broken-off', 0])
    await tidy()
    expect(await stored()).toEqual([0, 0])
  })
})
