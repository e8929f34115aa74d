import { mixNode } from '@sober-prism/core/mix'
import { describe, expect, it } from 'vitest'
import { MixBeds } from './mix-beds'

const FRAMES = 100
const plan = (id: string) => ({ nodes: [{ ...mixNode(0), id }] })
const part = { fromFrame: 0, toFrame: 100, heardFrom: 0, heardTo: 120 }

describe('beds of a mix', () => {
  it('begin empty, as long as what is rendered, and know which plan went in', async () => {
    const beds = new MixBeds()
    const first = await beds.use('k', part, FRAMES, plan('a'), async (bed) => bed)
    expect(first?.plan).toBeNull()
    expect([first?.left.length, first?.right.length]).toEqual([120, 120])
    const second = await beds.use('k', part, FRAMES, plan('b'), async (bed) => bed)
    expect(second?.plan?.nodes[0].id).toBe('a')
    expect(second?.left.buffer).toBe(first?.left.buffer)
  })

  it('are worked on one after another, and stay as they were when work is given up', async () => {
    const beds = new MixBeds()
    const steps: string[] = []
    let go = () => {}
    const turn = new Promise<void>((resolve) => {
      go = resolve
    })
    const slow = beds.use('k', part, FRAMES, plan('a'), async () => {
      steps.push('first begins')
      await turn
      steps.push('first ends')
    })
    const failing = beds.use('k', part, FRAMES, plan('b'), async (bed) => {
      steps.push(`second finds ${bed?.plan?.nodes[0].id}`)
      throw new DOMException('given up', 'AbortError')
    })
    const third = beds.use('k', part, FRAMES, plan('c'), async (bed) => {
      steps.push(`third finds ${bed?.plan?.nodes[0].id}`)
    })
    go()
    await slow
    await expect(failing).rejects.toThrow('given up')
    await third
    expect(steps).toEqual(['first begins', 'first ends', 'second finds a', 'third finds a'])
  })

  it('are begun anew when work broke off half-way', async () => {
    const beds = new MixBeds()
    await beds.use('k', part, FRAMES, plan('a'), async () => {})
    const broken = beds.use('k', part, FRAMES, plan('b'), async () => {
      throw new Error('the worker stopped')
    })
    await expect(broken).rejects.toThrow('stopped')
    const next = await beds.use('k', part, FRAMES, plan('b'), async (bed) => bed)
    expect(next?.plan).toBeNull()
  })

  it('are let go when the audio or the stretch is another', async () => {
    const beds = new MixBeds()
    await beds.use('k', part, FRAMES, plan('a'), async () => {})
    const other = await beds.use('other', part, FRAMES, plan('a'), async (bed) => bed)
    expect(other?.plan).toBeNull()
  })

  it('are not made for passages that would take too much memory', async () => {
    const beds = new MixBeds()
    expect(await beds.use('k', part, 48000 * 600, plan('a'), async (bed) => bed)).toBeNull()
  })
})
