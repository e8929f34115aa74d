import { emptyChain, newBand } from '@sober-prism/core/session'
import { describe, expect, it } from 'vitest'
import { Signal } from '../signal'
import { RING_FRAMES, Rings } from '../sound/rings'
import { runTask } from '../work/run-task'
import type { WorkerPool } from '../work/worker-pool'
import { KernelStore } from './kernel-store'
import { fileName } from './render-session'

const tick = () => new Promise((resolve) => setTimeout(resolve, 0))

describe('the kernel store', () => {
  const chainWith = (db: number) => {
    const chain = emptyChain()
    chain.phase = 'linear'
    const band = { ...newBand('bell', 2000), db }
    chain.fit.moves.push({ id: 'm', on: true, reason: '', evidence: null, band })
    return chain
  }
  function store() {
    const waiting: (() => void)[] = []
    let readies = 0
    const pool = {
      run: (_: 'kernels', input: Parameters<typeof runTask<'kernels'>>[1]) =>
        new Promise((resolve) => {
          waiting.push(() => resolve(runTask('kernels', input, () => {})))
        }),
    }
    const made = new KernelStore(pool as unknown as WorkerPool, 48000, () => readies++)
    return { made, waiting, readies: () => readies }
  }

  it('keeps the last kernels in use until new ones are designed, one design at a time', async () => {
    const { made, waiting, readies } = store()
    expect(made.get(chainWith(-3), 'a')).toBeNull()
    expect(made.get(chainWith(-4), 'a')).toBeNull()
    expect(waiting).toHaveLength(1)
    waiting[0]()
    await tick()
    expect(readies()).toBe(1)
    const first = made.get(chainWith(-3), 'a')
    expect(first?.firs).toHaveLength(1)
    expect(first?.firs[0].kernels[0].buffer).toBeInstanceOf(SharedArrayBuffer)
    expect(made.get(chainWith(-4), 'a')).toBe(first)
    expect(waiting).toHaveLength(2)
    expect(made.costs.value.get('a')?.latencyFrames).toBe(first?.latency)
  })

  it('forgets a chain that goes back to minimum phase', async () => {
    const { made, waiting } = store()
    made.get(chainWith(-3), 'a')
    waiting[0]()
    await tick()
    expect(made.get({ ...chainWith(-3), phase: 'minimum' }, 'a')).toBeNull()
    expect(made.costs.value.size).toBe(0)
  })
})

describe('the rings of live sound', () => {
  it('give the newest frames of each line, across the seam', () => {
    const rings = Rings.forTracks(2)
    const block = new Float32Array(128)
    let value = 0
    for (let n = 0; n < (RING_FRAMES / 128) * 1.5; n++) {
      for (let i = 0; i < 128; i++) block[i] = ++value
      rings.write(0, block, 128)
      rings.writeMiddle(3, block, new Float32Array(128), 128)
      rings.advance(128)
    }
    const out = new Float32Array(1000)
    rings.read(0, rings.written, out)
    expect([out[0], out[999]]).toEqual([value - 999, value])
    rings.read(3, rings.written, out)
    expect(out[999]).toBe(value / 2)
    const same = new Rings(rings.buffer)
    expect(same.written).toBe(rings.written)
  })

  it('give silence before the beginning', () => {
    const rings = Rings.forTracks(0)
    rings.write(0, Float32Array.of(1, 2), 2)
    rings.advance(2)
    const out = new Float32Array(4)
    rings.read(0, 2, out)
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

  it.each([
    ['Tern Island', 'Tern Island'],
    ['a/b\\c:d*', 'a_b_c_d_'],
    ['Überfahrt – Nr. 2', 'Überfahrt _ Nr_ 2'],
    ['   ', 'untitled'],
  ])('%s becomes the file name %s', (name, file) => {
    expect(fileName(name)).toBe(file)
  })
})
