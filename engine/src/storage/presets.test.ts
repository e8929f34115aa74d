import 'fake-indexeddb/auto'
import type { Preset } from '@sober-prism/core/session'
import { newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it } from 'vitest'
import { database } from './database'
import { deletePreset, keepPresets, listPresets } from './presets'

const preset = (name: string): Preset => ({
  name,
  words: '',
  tags: ['bass'],
  scope: 'treatment',
  treatments: [
    newTreatment('low-middle', 'm', 'fit', { hz: 140, slopeDbPerOct: 24, from: 'both' }),
  ],
})

describe('presets in this browser', () => {
  it('are kept, renamed in their place, and removed', async () => {
    await keepPresets([preset('One'), preset('Two')])
    const [one, two] = (await listPresets()).presets
    expect([one.name, two.name]).toEqual(['One', 'Two'])
    expect(one.treatments[0]).toMatchObject({ kind: 'low-middle', params: { hz: 140 } })
    await keepPresets([{ ...one, name: 'First' }])
    expect((await listPresets()).presets.map((p) => p.name)).toEqual(['First', 'Two'])
    await deletePreset(two.id)
    expect((await listPresets()).presets.map((p) => p.name)).toEqual(['First'])
  })

  it('of another version stay stored, and are counted', async () => {
    const db = await database()
    await db.put('presets', { id: 'x', file: '{"version":9,"presets":[]}', storedAt: 0 })
    const { presets, unreadable } = await listPresets()
    expect([presets.length, unreadable]).toEqual([1, 1])
    expect(await db.get('presets', 'x')).toBeDefined()
  })
})
