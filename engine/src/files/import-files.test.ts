import { makeClip, writeWav } from '@sober-prism/core/audio'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { EngineError } from '../engine-error'
import { openDemo } from './demo-session'
import { type FileSource, type ImportEvent, importFiles, profileFile } from './import-files'

type Run = (name: string, input: never, options: Record<string, never>) => Promise<unknown>
const run = vi.hoisted(() => vi.fn())
const saved = vi.hoisted(() => vi.fn())
vi.mock('./jobs', () => ({ runFileJob: run }))
vi.mock('../storage/sessions', () => ({ saveSession: saved }))
vi.mock('./browser-decode', () => ({
  decodeInBrowser: async () => ({
    kind: 'decoded',
    channels: [new Float32Array(8)],
    sampleRateHz: 44100,
  }),
}))

const RATE = 48000
const wav = new Blob([writeWav(makeClip(RATE, [new Float32Array(64)]), 16)])
const zip = new Blob([Uint8Array.from([0x50, 0x4b, 3, 4, 0, 0, 0, 0, 0, 0, 0, 0])])
const source = (name: string, file: Blob | (() => Promise<Blob>)): FileSource => ({
  name,
  file: async () => (typeof file === 'function' ? file() : file),
})
const audio = (n: number) => ({ hash: `${n}`.padStart(64, '0'), channels: 1 as const, frames: 64 })

/** What the events of one file were, by the name it came in with. */
function told(events: readonly ImportEvent[]) {
  const names = new Map<string, string>()
  const by = new Map<string, ImportEvent[]>()
  for (const event of events) {
    if (event.kind === 'waiting') names.set(event.key, event.name)
    const name = names.get(event.key) ?? 'unknown'
    by.set(name, [...(by.get(name) ?? []), event])
  }
  return (name: string) => by.get(name) ?? []
}
const kinds = (events: readonly ImportEvent[]) => events.map((e) => e.kind)

async function imported(
  sources: readonly FileSource[],
  signal: AbortSignal = new AbortController().signal,
) {
  const events: ImportEvent[] = []
  await importFiles(sources, RATE, (e) => events.push(e), signal)
  return { events, of: told(events) }
}

beforeEach(() => {
  let n = 0
  run.mockReset().mockImplementation((async (name) => {
    if (name === 'unzip') {
      return {
        entries: [
          { name: 'kit/Snare.wav', file: wav },
          { name: 'kit/Hats.wav', file: wav },
        ],
      }
    }
    if (name === 'profile') return { profile: 'a profile' }
    return { audio: audio(++n), originalRateHz: 44100, timeStampSeconds: null }
  }) as Run)
  saved.mockReset().mockResolvedValue(undefined)
})
afterEach(() => vi.unstubAllGlobals())

describe('bringing files in', () => {
  it('ends each with an event of its own, named without its ending', async () => {
    const { of } = await imported([source('Voice.wav', wav), source('Bass.take.wav', wav)])
    expect(kinds(of('Voice.wav'))).toEqual(['waiting', 'progress', 'progress', 'done'])
    const done = of('Bass.take.wav').at(-1)
    expect(done).toMatchObject({
      kind: 'done',
      result: { name: 'Bass.take', originalRateHz: 44100 },
    })
    expect(run.mock.calls.map(([name, input]) => [name, input.sampleRateHz])).toEqual([
      ['import', RATE],
      ['import', RATE],
    ])
  })

  it('says of an empty or a locked file what is wrong, and goes on with the others', async () => {
    const locked = { size: 10, slice: () => ({ arrayBuffer: () => Promise.reject(new Error()) }) }
    const { of } = await imported([
      source('Nothing.wav', new Blob([])),
      source('Locked.wav', locked as unknown as Blob),
      source('Voice.wav', wav),
    ])
    expect(of('Nothing.wav').at(-1)).toMatchObject({
      kind: 'failed',
      sentence: 'The file is empty.',
    })
    expect(of('Locked.wav').at(-1)).toMatchObject({
      kind: 'failed',
      sentence: expect.stringMatching(/cannot be opened/),
    })
    expect(of('Voice.wav').at(-1)?.kind).toBe('done')
  })

  it('opens a zip, whose sounds follow behind what already waits', async () => {
    const { of, events } = await imported([source('Kit.zip', zip), source('Voice.wav', wav)])
    expect(of('Kit.zip').at(-1)).toMatchObject({ kind: 'opened', count: 2 })
    expect(of('kit/Snare.wav').at(-1)).toMatchObject({ kind: 'done' })
    expect(events.filter((e) => e.kind === 'done')).toHaveLength(3)
  })

  it('lets the browser decode what is neither WAV nor AIFF, and hands its samples over', async () => {
    await imported([source('Song.mp3', new Blob([new Uint8Array(80).fill(7)]))])
    const [, input, options] = run.mock.calls[0]
    expect(input.source.kind).toBe('decoded')
    expect(options.transfer).toEqual([input.source.channels[0].buffer])
  })

  it('brings in two at a time', async () => {
    let [now, most] = [0, 0]
    run.mockImplementation(async () => {
      most = Math.max(most, ++now)
      await new Promise((resolve) => setTimeout(resolve, 5))
      now--
      return { audio: audio(1), originalRateHz: RATE, timeStampSeconds: null }
    })
    await imported(Array.from({ length: 6 }, (_, i) => source(`${i}.wav`, wav)))
    expect(most).toBe(2)
  })

  it('tells what was cancelled from what failed', async () => {
    const controller = new AbortController()
    run.mockImplementationOnce(async () => {
      controller.abort(new DOMException('Cancelled.', 'AbortError'))
      throw controller.signal.reason
    })
    const { of } = await imported(
      ['A.wav', 'B.wav', 'C.wav'].map((name) => source(name, wav)),
      controller.signal,
    )
    expect(of('A.wav').at(-1)?.kind).toBe('cancelled')
    expect(of('C.wav').at(-1)?.kind).toBe('cancelled')
  })

  it('passes on what a worker says of its progress and of what it cannot read', async () => {
    run.mockImplementationOnce((async (_, __, { onProgress }) => {
      ;(onProgress as (stage: string, share: number) => void)('storing', 0.5)
      throw new EngineError('The file ends in the middle of its samples.')
    }) as Run)
    const { of } = await imported([source('Cut.wav', wav)])
    expect(of('Cut.wav')).toContainEqual(
      expect.objectContaining({ kind: 'progress', stage: 'storing', share: 0.5 }),
    )
    expect(of('Cut.wav').at(-1)).toMatchObject({
      sentence: 'The file ends in the middle of its samples.',
    })
  })
})

describe('the profile of a file', () => {
  it('is named after it, and nothing is stored', async () => {
    expect(await profileFile(new File([wav], 'Quay.master.wav'))).toBe('a profile')
    expect(run.mock.calls.map(([name]) => name)).toEqual(['profile'])
    expect(run.mock.calls[0][1].title).toEqual({ name: 'Quay.master' })
    await expect(profileFile(new File([], 'x.wav'))).rejects.toThrow('The file is empty.')
  })
})

describe('the demo', () => {
  const files = [
    { kind: 'track', name: 'Singer', file: 'singer.wav', role: 'voice', faderDb: 4 },
    { kind: 'track', name: 'Tuba', file: 'tuba.wav', role: 'bass' },
    { kind: 'track', name: 'Something', file: 'other.wav', role: 'theremin' },
    { kind: 'reference', name: 'Quay', file: 'quay.wav' },
    { kind: 'announcement', name: 'First take', file: 'first.wav', role: 'speech' },
  ]
  const served = (missing: string[] = []) =>
    vi.stubGlobal('fetch', async (url: string) => {
      const name = url.replace('/demo/', '')
      if (missing.includes(name)) return new Response(null, { status: 404 })
      return name === 'demo.json' ? Response.json({ name: 'A night', files }) : new Response(wav)
    })
  const signal = new AbortController().signal

  it('becomes a session with its roles, faders, references and passage, and is stored', async () => {
    served()
    const session = await openDemo('ensemble', () => {}, signal)
    expect(session.name).toBe('A night')
    expect(session.tracks.map((t) => [t.letter, t.name, t.role, t.faderDb])).toEqual([
      ['A', 'Singer', 'voice', 4],
      ['B', 'Tuba', 'bass', 0],
      ['C', 'Something', 'speech', 0],
    ])
    expect(session.references.map((r) => r.name)).toEqual(['Quay'])
    expect(session.leadIds).toEqual([session.tracks[0].id])
    expect(session.passage).toEqual({ fromFrame: 14 * RATE, toFrame: 38 * RATE })
    expect(saved).toHaveBeenCalledWith(session)
  })

  it('is another one for the announcement, as a whole', async () => {
    served()
    const session = await openDemo('announcement', () => {}, signal)
    expect(session.tracks.map((t) => t.name)).toEqual(['First take'])
    expect(session.passage).toBeNull()
  })

  it('says what to do where its audio is not there, and stores nothing by halves', async () => {
    served(['demo.json'])
    await expect(openDemo('ensemble', () => {}, signal)).rejects.toThrow(/npm start/)
    served(['tuba.wav'])
    await expect(openDemo('ensemble', () => {}, signal)).rejects.toThrow(/could not be opened/)
    expect(saved).not.toHaveBeenCalled()
  })

  it('ends without a session when it is cancelled on the way', async () => {
    const controller = new AbortController()
    vi.stubGlobal('fetch', async () => {
      controller.abort(new DOMException('Cancelled.', 'AbortError'))
      throw new TypeError('failed')
    })
    await expect(openDemo('ensemble', () => {}, controller.signal)).rejects.toThrow('Cancelled.')
  })
})
