import { describe, expect, it } from 'vitest'
import { makeClip } from '../../audio'
import { designBand, Equaliser, newBand } from '../../filters'
import { hearingBands } from '../../hearing'
import { loudnessSteps } from '../../loudness'
import { whiteNoise } from '../../testing/signals'
import { HUNT, huntBoost } from './hunt'

const RATE = 48000
const SECONDS = 6

const tones = (hz: readonly number[]) =>
  Float32Array.from({ length: SECONDS * RATE }, (_, i) =>
    hz.reduce((sum, f, k) => sum + (0.2 / (k + 1)) * Math.sin((2 * Math.PI * f * i) / RATE), 0),
  )
const SOUNDS: Readonly<Record<string, Float32Array>> = {
  'one tone': tones([440]),
  'a chord': tones([196, 247, 294, 392, 494, 588]),
  noise: whiteNoise(SECONDS * RATE, 3, 0.1),
  strokes: Float32Array.from(whiteNoise(SECONDS * RATE, 4, 0.5), (v, i) => {
    const t = (i % 19200) / RATE
    return v * Math.exp(-t / 0.02) + 0.3 * Math.sin(2 * Math.PI * 180 * t) * Math.exp(-t / 0.1)
  }),
}

function boosted(signal: Float32Array, hz: number, q: number, db: number): Float32Array {
  const out = signal.slice()
  const equaliser = new Equaliser()
  equaliser.prepare(RATE, 1)
  const band = { ...newBand('bell', hz), q, db }
  equaliser.set([{ id: 'hunt', band, sections: designBand(band, RATE) }])
  equaliser.process([out], out.length)
  return out
}

/** Loudness of all stretches of 400 ms, a tenth of a second apart, in LU. */
function momentary(signal: Float32Array): number[] {
  const steps = loudnessSteps(makeClip(RATE, [signal]), 0, signal.length)
  return Array.from({ length: steps.length - 3 }, (_, i) => {
    const sum = steps[i] + steps[i + 1] + steps[i + 2] + steps[i + 3]
    return 10 * Math.log10(sum + 1e-12)
  })
}

describe('the boost of a hunt', () => {
  it.each(Object.keys(SOUNDS))('makes no moment of %s louder by more than 6 LU', (name) => {
    const signal = SOUNDS[name]
    const bands = hearingBands(makeClip(RATE, [signal]))
    const before = momentary(signal)
    const loudest = Math.max(...before)
    for (let hz = 90; hz < 12_000; hz *= 1.37) {
      for (const q of [6, 20]) {
        const after = momentary(boosted(signal, hz, q, huntBoost(bands, hz, q, RATE)))
        const rises = after.flatMap((lu, i) => (before[i] > loudest - 40 ? [lu - before[i]] : []))
        expect([hz, q, Math.max(...rises) <= HUNT.mostRiseLu]).toEqual([hz, q, true])
      }
    }
  })

  it('is all of it where there is little, and little where there is all', () => {
    const bands = hearingBands(makeClip(RATE, [SOUNDS['one tone']]))
    expect(huntBoost(bands, 440, 12, RATE)).toBeLessThan(5.5)
    expect(huntBoost(bands, 440, 12, RATE)).toBeGreaterThan(4)
    expect(huntBoost(bands, 5000, 12, RATE)).toBe(HUNT.mostDb)
  })
})
