import { describe, expect, it } from 'vitest'
import { type Clip, makeClip, seededRandom, sliceClip } from '../audio'
import { measureLoudness, truePeakDbtp } from '../loudness'
import { longTermLevels } from '../spectrum'
import { LEVEL_BANDS } from './level-bands'
import { joinMixParts, mixParts, readMixPart } from './mix-reading'

/** Noise and a tone that swell and fade, with one sharp peak near a border between parts. */
function swells(rate: number, seconds: number): Clip {
  const random = seededRandom(4)
  const make = (hz: number) =>
    Float32Array.from({ length: rate * seconds }, (_, i) => {
      const swell = 0.2 + 0.15 * Math.sin((2 * Math.PI * i) / (7 * rate))
      return swell * (random() - 0.5 + Math.sin((2 * Math.PI * hz * i) / rate))
    })
  return makeClip(rate, [make(220), make(3000)])
}

function inParts(clip: Clip, from: number, to: number) {
  const parts = mixParts(from, to, clip.sampleRateHz)
  const read = parts.map((p) => readMixPart(sliceClip(clip, p.heardFrom, p.heardTo), p, to - from))
  return { parts, reading: joinMixParts(read, clip.sampleRateHz) }
}

describe('a mix that is measured in parts', () => {
  it.each([44100, 48000])('reads like one that is measured at once, at %d Hz', (rate) => {
    const clip = swells(rate, 50)
    const whole = sliceClip(clip, rate, 49 * rate)
    const { parts, reading } = inParts(clip, rate, 49 * rate)
    expect(parts.length).toBe(3)
    expect(parts[0].fromFrame).toBe(rate)
    expect(parts[2].toFrame).toBe(49 * rate)
    parts.slice(1).forEach((p, i) => {
      expect(p.fromFrame).toBe(parts[i].toFrame)
    })
    expect(reading.lufs).toBeCloseTo(measureLoudness(whole).integratedLufs ?? 0, 2)
    expect(reading.truePeakDbtp).toBeCloseTo(truePeakDbtp(whole) ?? 0, 6)
    const levels = longTermLevels(whole, LEVEL_BANDS)
    const apart = reading.levels.map((db, i) => Math.abs(db - levels[i]))
    expect(Math.max(...apart)).toBeLessThan(0.25)
  })

  it('has no loudness and no peak in silence, and takes a stretch of one block', () => {
    const silent = makeClip(48000, [new Float32Array(4800), new Float32Array(4800)])
    const { reading } = inParts(silent, 0, 4800)
    expect(reading.lufs).toBeNull()
    expect(reading.truePeakDbtp).toBeNull()
  })
})
