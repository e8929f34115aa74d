import { describe, expect, it } from 'vitest'
import { type GainMoment, SHOWN_MS, withMoment } from './gain-history'

describe('Gain over time', () => {
  it('keeps the furthest of each moment, and lets go of what is too long ago', () => {
    let moments: readonly GainMoment[] = []
    moments = withMoment(moments, 0, [-3, -1, 2])
    moments = withMoment(moments, 100, [-6, -1])
    expect(moments).toEqual([
      { at: 0, lowest: -3, highest: 2 },
      { at: 100, lowest: -6, highest: 0 },
    ])
    expect(withMoment(moments, SHOWN_MS + 50, []).map((m) => m.at)).toEqual([100])
    expect(withMoment(moments, 2 * SHOWN_MS, [-1])).toHaveLength(1)
  })
})
