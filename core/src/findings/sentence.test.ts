import { describe, expect, it } from 'vitest'
import { type Clip, makeClip } from '../audio'
import { bell } from '../testing/filtered'
import { whiteNoise } from '../testing/signals'
import { newTreatment } from '../treatments'
import { findingTitle, moveSentence, readMeasure, readSource } from '.'
import { bandMove, treatmentMove } from './survey-input'

const RATE = 48000
const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])

describe('words', () => {
  it('name kinds and moves as an engineer would', () => {
    const evidence = { kind: 'rumble', lowestHz: 220, levelDb: -20 } as const
    const place = { hz: 30, fromHz: 20, toHz: 45, evidence }
    expect(findingTitle({ ...place, kind: 'rumble', names: ['Singer'] })).toBe(
      'Rumble below Singer',
    )
    expect(findingTitle({ ...place, kind: 'alignment', names: ['A', 'B'] })).toBe('A and B cancel')
    expect(moveSentence(bandMove('t', 'fit', bell(85, -4, 1.2)), 'Tuba')).toBe(
      'cut Tuba at 85.0 Hz by 4 dB, Q 1.2',
    )
    const params = { delayFrames: -149.25, polarity: -1, turnDeg: 20 } as const
    const move = treatmentMove('t', newTreatment('align', 'a', 'fit', params))
    expect(moveSentence(move, 'Far')).toBe(
      'shift Far 149.25 samples earlier, invert polarity and rotate phase 20°',
    )
  })

  it('levels are read with a filter as the filter says', () => {
    const reading = readSource(mono(whiteNoise(4 * RATE, 20, 0.2)))
    const measure = { of: 'level', track: 't', fromHz: 950, toHz: 1050, against: 'beside' } as const
    const sources = { tracks: [{ id: 't', reading }], mixLevels: null }
    const change = { moves: [bandMove('t', 'fit', bell(1000, -12, 4))], sampleRateHz: RATE }
    const fall = readMeasure(measure, sources) - readMeasure(measure, sources, change)
    expect(fall).toBeGreaterThan(6)
    expect(fall).toBeLessThan(12)
  })
})
