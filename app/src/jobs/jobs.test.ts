import type { Desk, ImportEvent } from '@sober-prism/engine'
import * as engine from '@sober-prism/engine'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf } from '../testing/session'
import { DeliverJobs } from './deliver-jobs'
import * as downloads from './download'
import { ImportJobs } from './import-jobs'

vi.mock('@sober-prism/engine', async (original) => ({
  ...(await original<typeof engine>()),
  holdAudio: vi.fn(() => () => {}),
  importFiles: vi.fn(),
  renderSession: vi.fn(),
  bundleFiles: vi.fn(),
  packSession: vi.fn(),
}))
vi.mock('./download', () => ({ download: vi.fn() }))

const files = (...names: string[]) => names.map((name) => ({ name }) as File)
const audio = (n: number) => ({ hash: `${n}`.padStart(64, 'f'), channels: 2 as const, frames: 480 })
const result = (name: string, n: number) =>
  ({ name, audio: audio(n), timeStampSeconds: null, originalRateHz: 44_100 }) as never

type Follow = (event: ImportEvent) => void
/** Files come in as a script tells it. */
function importing(script: (follow: Follow, signal: AbortSignal) => Promise<void>) {
  vi.mocked(engine.importFiles).mockImplementation(
    async (_: readonly unknown[], __: number, follow: Follow, signal: AbortSignal) =>
      script(follow, signal) as never,
  )
}
const waiting = (key: string, name: string) => ({ kind: 'waiting', key, name }) as ImportEvent
const done = (key: string, name: string, n: number) =>
  ({ kind: 'done', key, result: result(name, n) }) as ImportEvent
const present = () => store.getState().session.present
const names = () => present()?.tracks.map((t) => t.name)

beforeEach(() => {
  vi.useFakeTimers()
  store.dispatch(sessionActions.opened(sessionOf([])))
})
afterEach(() => vi.useRealTimers())

describe('files that come in', () => {
  it('become tracks in the order in which they were given, whichever is ready first', async () => {
    importing(async (follow) => {
      for (const [key, name] of [
        ['a', 'Kick'],
        ['b', 'Bass'],
        ['c', 'Voice'],
      ]) {
        follow(waiting(key, name))
      }
      follow(done('c', 'Voice', 3))
      follow(done('a', 'Kick', 1))
      await vi.advanceTimersByTimeAsync(400)
      expect(names()).toEqual(['Kick'])
      follow(done('b', 'Bass', 2))
    })
    const jobs = new ImportJobs()
    await jobs.bring(files('Kick', 'Bass', 'Voice'), 'tracks')
    expect(names()).toEqual(['Kick', 'Bass', 'Voice'])
    expect(jobs.files.value.map((f) => f.state.kind)).toEqual(['done', 'done', 'done'])
    expect(jobs.files.value[0].state).toMatchObject({ text: 'stereo, 44100 Hz' })
  })

  it('become references where they are dropped there', async () => {
    importing(async (follow) => {
      follow(waiting('a', 'Quay'))
      follow(done('a', 'Quay', 1))
    })
    await new ImportJobs().bring(files('Quay'), 'references')
    expect(present()?.references.map((r) => r.name)).toEqual(['Quay'])
    expect(names()).toEqual([])
  })

  it('are told with what they wait for, one that fails by its sentence, and hold no other up', async () => {
    const jobs = new ImportJobs()
    importing(async (follow) => {
      follow(waiting('a', 'Kick'))
      follow(waiting('b', 'Notes'))
      follow({ kind: 'progress', key: 'a', stage: 'reading', share: 0.5 } as ImportEvent)
      await vi.advanceTimersByTimeAsync(300)
      expect(jobs.busy).toBe(true)
      expect(jobs.files.value[0].state).toMatchObject({ kind: 'busy', share: 0.5 })
      follow({ kind: 'failed', key: 'b', sentence: 'This is no sound.' } as ImportEvent)
      follow(done('a', 'Kick', 1))
    })
    await jobs.bring(files('Kick', 'Notes'), 'tracks')
    expect(jobs.busy).toBe(false)
    expect(jobs.files.value[1].state).toEqual({ kind: 'failed', sentence: 'This is no sound.' })
    expect(names()).toEqual(['Kick'])
    jobs.clear()
    expect(jobs.files.value).toEqual([])
  })

  it('are not taken by a session whose rate was changed meanwhile', async () => {
    importing(async (follow) => {
      follow(waiting('a', 'Kick'))
      const change = { sampleRateHz: 44_100 } as const
      store.dispatch(sessionActions.edited([{ kind: 'set-session', change }]))
      follow(done('a', 'Kick', 1))
    })
    const jobs = new ImportJobs()
    await jobs.bring(files('Kick'), 'tracks')
    expect(names()).toEqual([])
    expect(jobs.files.value[0].state).toMatchObject({
      kind: 'failed',
      sentence: expect.stringContaining('sample rate has changed'),
    })
  })

  it('stop when they are cancelled; nothing given is nothing done', async () => {
    const jobs = new ImportJobs()
    importing(async (follow, signal) => {
      follow(waiting('a', 'Kick'))
      jobs.cancel()
      expect(signal.aborted).toBe(true)
      follow({ kind: 'cancelled', key: 'a' } as ImportEvent)
    })
    await jobs.bring(files('Kick'), 'tracks')
    expect(jobs.files.value[0].state.kind).toBe('cancelled')
    vi.mocked(engine.importFiles).mockClear()
    await jobs.bring([], 'tracks')
    expect(engine.importFiles).not.toHaveBeenCalled()
  })
})

describe('what is delivered', () => {
  const choice = { mix: true, tracks: false, groups: false, bits: 24 } as const
  const desk = { pool: {}, shelf: {} } as unknown as Desk
  const file = (name: string) => ({ name, blob: new Blob([name]), lufs: -20, truePeakDbtp: -3 })
  const notice = () => store.getState().interface.notice?.text

  it('is one file by its name, several as one zip', async () => {
    const jobs = new DeliverJobs()
    const seen: (string | undefined)[] = []
    jobs.work.watch(() => seen.push(jobs.work.value?.what))
    vi.mocked(engine.renderSession).mockImplementationOnce(async (_, __, ___, show) => {
      show('Rendering the mix', 0.5)
      return [file('Mix.wav')] as never
    })
    await jobs.render(sessionOf(['A']), choice, desk)
    expect(downloads.download).toHaveBeenLastCalledWith('Mix.wav', expect.any(Blob))
    expect(seen).toEqual(['Rendering', 'Rendering the mix', undefined])
    vi.mocked(engine.renderSession).mockResolvedValueOnce([file('A.wav'), file('B.wav')] as never)
    vi.mocked(engine.bundleFiles).mockResolvedValueOnce(new Blob(['zip']))
    await jobs.render(sessionOf(['A', 'B']), choice, desk)
    expect(downloads.download).toHaveBeenLastCalledWith('A piece.zip', expect.any(Blob))
    expect(jobs.files.value).toHaveLength(2)
  })

  it('is the session, with a name that a disk takes', async () => {
    vi.mocked(engine.packSession).mockResolvedValueOnce(new Blob(['session']))
    await new DeliverJobs().save(sessionOf(['A']), true)
    expect(engine.packSession).toHaveBeenLastCalledWith(expect.anything(), true, expect.anything())
    expect(downloads.download).toHaveBeenLastCalledWith('A piece.prism', expect.any(Blob))
  })

  it('says what went wrong; a cancel is no fault, and two do not run at once', async () => {
    const jobs = new DeliverJobs()
    vi.mocked(engine.renderSession).mockRejectedValueOnce(new Error('The disk is full.'))
    await jobs.render(sessionOf(['A']), choice, desk)
    expect(notice()).toContain('The disk is full.')
    expect(jobs.work.value).toBeNull()
    const before = store.getState().interface.notice
    vi.mocked(engine.renderSession).mockClear()
    vi.mocked(engine.renderSession).mockImplementationOnce(
      (_, __, ___, ____, signal) =>
        new Promise((_resolve, reject) => {
          signal.addEventListener('abort', () => reject(signal.reason))
        }),
    )
    const first = jobs.render(sessionOf(['A']), choice, desk)
    await jobs.render(sessionOf(['A']), choice, desk)
    expect(engine.renderSession).toHaveBeenCalledTimes(1)
    jobs.cancel()
    await first
    expect(store.getState().interface.notice).toBe(before)
    expect(jobs.work.value).toBeNull()
  })
})
