import { emptyChain } from '@sober-prism/core/session'
import { describe, expect, it } from 'vitest'
import { MixBeds } from './mix-beds'

const track = (id: string) => ({
  id,
  offsetFrames: 0,
  faderDb: 0,
  pan: 0,
  audible: true,
  chain: emptyChain(),
})
const part = { fromFrame: 0, toFrame: 100, heardFrom: 0, heardTo: 120 }

describe('beds of a mix', () => {
  it('begin empty, as long as what is rendered, and know which tracks went in', async () => {
    const beds = new MixBeds()
    const first = await beds.use('k', part, [track('a')], async (bed) => bed)
    expect(first?.tracks).toEqual([])
    expect([first?.left.length, first?.right.length]).toEqual([120, 120])
    const second = await beds.use('k', part, [track('b')], async (bed) => bed)
    expect(second?.tracks.map((t) => t.id)).toEqual(['a'])
    expect(second?.left.buffer).toBe(first?.left.buffer)
  })

  it('are worked on one after another, and stay as they were when work is given up', async () => {
    const beds = new MixBeds()
    const steps: string[] = []
    const slow = beds.use('k', part, [track('a')], async () => {
      steps.push('first begins')
      await new Promise((resolve) => setTimeout(resolve, 20))
      steps.push('first ends')
    })
    const failing = beds.use('k', part, [track('b')], async (bed) => {
      steps.push(`second finds ${bed?.tracks.map((t) => t.id)}`)
      throw new DOMException('given up', 'AbortError')
    })
    const third = beds.use('k', part, [track('c')], async (bed) => {
      steps.push(`third finds ${bed?.tracks.map((t) => t.id)}`)
    })
    await slow
    await expect(failing).rejects.toThrow('given up')
    await third
    expect(steps).toEqual(['first begins', 'first ends', 'second finds a', 'third finds a'])
  })

  it('are begun anew when work broke off half-way', async () => {
    const beds = new MixBeds()
    await beds.use('k', part, [track('a')], async () => {})
    const broken = beds.use('k', part, [track('b')], async () => {
      throw new Error('the worker stopped')
    })
    await expect(broken).rejects.toThrow('stopped')
    const next = await beds.use('k', part, [track('b')], async (bed) => bed)
    expect(next?.tracks).toEqual([])
  })

  it('are let go when the audio or the stretch is another', async () => {
    const beds = new MixBeds()
    await beds.use('k', part, [track('a')], async () => {})
    const other = await beds.use('other', part, [track('a')], async (bed) => bed)
    expect(other?.tracks).toEqual([])
  })
})
