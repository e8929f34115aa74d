import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededRandom } from '../../audio'
import { estimateTempo } from './tempo'

const RATE = 24_000

/** Struck noise in a pattern of beats and their halves, each up to 8 ms off. */
function struck(tempo: number, seed: number, seconds = 20) {
  const random = seededRandom(seed)
  const out = new Float32Array(seconds * RATE)
  const beat = (60 / tempo) * RATE
  for (let k = 0; k * beat < 2 * out.length; k++) {
    const isBeat = k % 2 === 0
    if (!isBeat && random() < 0.3) continue
    const from = Math.round((k * beat) / 2 + (random() - 0.5) * 0.016 * RATE)
    for (let i = 0; i < 0.12 * RATE && from + i < out.length; i++) {
      if (from + i < 0) continue
      out[from + i] += (isBeat ? 0.5 : 0.25) * (random() - 0.5) * Math.exp(-i / (0.02 * RATE))
    }
  }
  return out
}

describe('the tempo of a stretch', () => {
  it('is told within a fifth of a percent, or as half or twice of it', () => {
    fc.assert(
      fc.property(fc.double({ min: 62, max: 180, noNaN: true }), fc.integer(), (tempo, seed) => {
        const found = estimateTempo(struck(tempo, seed), RATE)
        const ratio = (found?.beatsPerMinute ?? 0) / tempo
        const off = [0.5, 1, 2].map((r) => Math.abs(ratio / r - 1))
        expect(Math.min(...off)).toBeLessThan(0.002)
      }),
      { numRuns: 12 },
    )
  })

  it('is the tempo itself where people mostly tap', () => {
    for (const tempo of [96, 118, 140]) {
      const found = estimateTempo(struck(tempo, tempo), RATE)
      expect((found?.beatsPerMinute ?? 0) / tempo).toBeCloseTo(1, 2)
    }
  })

  it('is not told where nothing recurs', () => {
    const random = seededRandom(5)
    const noise = Float32Array.from({ length: 15 * RATE }, () => random() - 0.5)
    expect(estimateTempo(noise, RATE)).toBeNull()
    expect(estimateTempo(new Float32Array(15 * RATE), RATE)).toBeNull()
    expect(estimateTempo(new Float32Array(10), RATE)).toBeNull()
  })
})
