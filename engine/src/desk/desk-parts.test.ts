import type { PhasePlan } from '@sober-prism/core/filters'
import { newBand } from '@sober-prism/core/filters'
import { listeningPlan } from '@sober-prism/core/mix'
import { applyEdits, emptySession, newTrack } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it, vi } from 'vitest'
import { answer, type InputOf } from '../questions/registry'
import { Signal } from '../signal'
import { changedNodes } from '../sound/plan-changes'
import { TAP_FRAMES, TapBuffers } from '../sound/tap-buffers'
import type { WorkerPool } from '../work/worker-pool'
import { DesignStore } from './design-store'

const tick = () => new Promise((resolve) => setTimeout(resolve, 0))

describe('the design store', () => {
  const params = (db: number, phase: 'linear' | 'minimum' = 'linear') => ({
    phase,
    bands: [newChainBand('m', { ...newBand('bell', 2000), db })],
  })
  function store(fails = false) {
    const waiting: (() => void)[] = []
    let readies = 0
    const run = (_: 'design', input: InputOf<'design'>) =>
      new Promise((resolve, reject) => {
        waiting.push(() =>
          fails ? reject(new Error('no room')) : resolve(answer('design', input, () => {})),
        )
      })
    const pool = { run } as unknown as WorkerPool
    const made = new DesignStore(pool, 48000, () => readies++)
    const get = (p: ReturnType<typeof params>) =>
      made.get('equaliser', p, 't', 'a') as { fir: PhasePlan | null } | null
    return { made, waiting, readies: () => readies, get }
  }

  it('keeps the last design in use until a new one is there, one at a time, the newest wish next', async () => {
    const { made, waiting, readies, get } = store()
    const [one, two, three] = [params(-3), params(-4), params(-5)]
    expect(get(one)).toBeNull()
    expect(get(two)).toBeNull()
    expect(get(three)).toBeNull()
    expect(waiting).toHaveLength(1)
    waiting[0]()
    await tick()
    // The wish that came last is taken up; the one between is not.
    expect(waiting).toHaveLength(2)
    const first = get(one)
    expect(first?.fir?.firs[0].kernels[0].buffer).toBeInstanceOf(SharedArrayBuffer)
    waiting[1]()
    await tick()
    expect(readies()).toBe(1)
    expect(get(three)?.fir?.firs).toHaveLength(1)
    expect(made.costs.value.get('a t')?.latencyFrames).toBe(get(three)?.fir?.latency)
  })

  it('designs light treatments on the spot, and forgets what they cost', async () => {
    const { made, waiting, get } = store()
    get(params(-3))
    waiting[0]()
    await tick()
    expect(made.costs.value.size).toBe(1)
    expect(get(params(-3, 'minimum'))?.fir).toBeNull()
    expect(made.costs.value.size).toBe(0)
  })

  it('tells a design that failed, and goes on with the next one', async () => {
    const { made, waiting, get } = store(true)
    const failing = params(-3)
    get(failing)
    waiting[0]()
    await tick()
    expect(made.problem.value).toMatch(/could not be prepared/)
    expect(get(failing)).toBeNull()
    expect(waiting).toHaveLength(1)
    get(params(-4))
    expect(waiting).toHaveLength(2)
  })
})

describe('what travels to the audio thread', () => {
  it('is what changed of a plan, and nothing for what stayed', () => {
    const session = emptySession('s', 'S', '2026-03-04T05:06:07.000Z', 48000)
    const audio = { hash: 'a'.repeat(64), channels: 1, frames: 10 }
    for (const id of ['a', 'b']) session.tracks.push(newTrack(id, id, 'other', id, audio))
    const store = new DesignStore({} as WorkerPool, 48000, () => {})
    const plan = (s: typeof session) => listeningPlan(s, store.get)
    const treated = applyEdits(session, [
      {
        kind: 'add-treatment',
        node: 'a',
        treatment: newTreatment('align', 't', 'fit'),
        before: null,
      },
    ])
    const names = (from: typeof session | null, to: typeof session) =>
      changedNodes(from && plan(from), plan(to)).map((n) => n.id)
    expect(names(null, session)).toEqual(['a', 'b', 'mix'])
    expect(names(session, treated)).toEqual(['a'])
    expect(names(treated, treated)).toEqual([])
    const moved = applyEdits(treated, [{ kind: 'set-node', node: 'b', change: { pan: 0.5 } }])
    expect(names(treated, moved)).toEqual(['b'])
  })
})

describe('the taps of live sound', () => {
  it('give the newest frames of each line, across the seam', () => {
    const taps = TapBuffers.forTracks(2)
    const block = new Float32Array(128)
    let value = 0
    for (let n = 0; n < (TAP_FRAMES / 128) * 1.5; n++) {
      for (let i = 0; i < 128; i++) block[i] = ++value
      taps.write(0, block, 128)
      taps.writeMiddle(3, block, new Float32Array(128), 128)
      taps.advance(128)
    }
    const out = new Float32Array(1000)
    taps.read(0, taps.written, out)
    expect([out[0], out[999]]).toEqual([value - 999, value])
    taps.read(3, taps.written, out)
    expect(out[999]).toBe(value / 2)
    const same = new TapBuffers(taps.buffer)
    expect(same.written).toBe(taps.written)
  })

  it('keep the sides of two nodes beside what goes into a chain and comes out of it', () => {
    const taps = TapBuffers.forTracks(1)
    const [left, right] = [Float32Array.of(3, 5), Float32Array.of(1, -1)]
    taps.writeMiddle(taps.probeLine, left, right, 2)
    taps.writeSides(taps.sidesLine, left, right, 2)
    taps.writeSides(taps.sidesLine + 1, right, left, 2)
    taps.write(2, left, 2)
    taps.advance(2)
    const read = (line: number) => {
      const out = new Float32Array(2)
      taps.read(line, 2, out)
      return [...out]
    }
    expect(read(taps.probeLine)).toEqual([2, 2])
    expect(read(taps.sidesLine)).toEqual([1, 3])
    expect(read(taps.sidesLine + 1)).toEqual([-1, -3])
    expect(read(2)).toEqual([3, 5])
  })

  it('give silence before the beginning', () => {
    const taps = TapBuffers.forTracks(0)
    taps.write(0, Float32Array.of(1, 2), 2)
    taps.advance(2)
    const out = new Float32Array(4)
    taps.read(0, 2, out)
    expect([...out]).toEqual([0, 0, 1, 2])
  })
})

describe('small things', () => {
  it('a signal tells its watchers of changes only, until they stop', () => {
    const signal = new Signal(1)
    let told = 0
    const stop = signal.watch(() => told++)
    signal.set(1)
    signal.set(2)
    stop()
    signal.set(3)
    expect([told, signal.read()]).toEqual([1, 3])
  })

  it('tells all who watch, also where one of them fails, and the failure is seen', () => {
    const later: (() => void)[] = []
    vi.stubGlobal('queueMicrotask', (run: () => void) => later.push(run))
    const signal = new Signal(0)
    const told: string[] = []
    signal.watch(() => {
      throw new Error('one that fails')
    })
    signal.watch(() => told.push('the other'))
    signal.set(1)
    vi.unstubAllGlobals()
    expect(told).toEqual(['the other'])
    expect(later[0]).toThrow('one that fails')
  })
})
