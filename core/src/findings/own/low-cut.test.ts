import { describe, expect, it } from 'vitest'
import { newBand } from '../../filters'
import { newChainBand, newTreatment } from '../../treatments'
import { isLowCutMade, lowCutMade, proposeLowCut } from './low-cut'

const chainWith = (hz: number, on = true) => [
  {
    ...newTreatment('equaliser', 'e', 'clean', {
      phase: 'minimum',
      bands: [newChainBand('a', newBand('low-cut', hz))],
    }),
    on,
  },
]

describe('one low cut for a sound', () => {
  it('is not asked for again once what took its rumble out stands', () => {
    const rumble = { cut: { ...newBand('low-cut', 139), slopeDbPerOct: 24 } }
    const reading = { rumble, lowest: null, levels: new Float64Array() } as unknown as Parameters<
      typeof proposeLowCut
    >[0]
    const taken = proposeLowCut(reading)
    expect(taken?.hz).toBe(139)
    // Behind it no rumble is left, and the lowest note of 290 Hz alone would have asked for more.
    expect(isLowCutMade(chainWith(139), { hz: 0.62 * 290 })).toBe(true)
    expect(isLowCutMade(chainWith(139), { hz: 300 })).toBe(false)
  })

  it('counts only while it is on', () => {
    expect(lowCutMade(chainWith(100, false))).toBeNull()
    expect(isLowCutMade(chainWith(100, false), { hz: 100 })).toBe(false)
  })
})
