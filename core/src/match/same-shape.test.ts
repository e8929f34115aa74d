import { describe, expect, it } from 'vitest'
import { type EqBand, logFrequencies, magnitudeDb, newBand } from '../filters'
import { isShapedBy, sameShape } from './same-shape'

const RATE = 48_000
const bell = (hz: number, db: number, q: number): EqBand => ({ ...newBand('bell', hz), db, q })
const SHAPES: Readonly<Record<string, readonly EqBand[]>> = {
  'a boost of presence': [bell(3000, 5, 0.8)],
  'a smile': [
    { ...newBand('low-shelf', 120), db: 4 },
    { ...newBand('high-shelf', 6000), db: 3 },
  ],
  'a scoop': [bell(400, -5, 1)],
  'a usual voice': [
    bell(250, -3, 1.2),
    bell(3500, 3, 0.9),
    { ...newBand('high-shelf', 9000), db: 2 },
  ],
}

/** Difference of two shapes, in dB rms, and its mean. */
function apart(before: readonly EqBand[], after: readonly EqBand[], gainDb: number) {
  // Below what the highest band may reach at this rate.
  const hz = logFrequencies(200).filter((f) => f < 18_000)
  const [a, b] = [before, after].map((list) => magnitudeDb(list, hz, RATE))
  const left = [...hz].map((_, i) => a[i] - b[i] - gainDb)
  return Math.sqrt(left.reduce((sum, v) => sum + v * v, 0) / left.length)
}

describe('the same shape otherwise', () => {
  it.each(
    Object.entries(SHAPES).flatMap(([name, bands]) =>
      (['cuts', 'boosts'] as const).map((way) => [name, way, bands] as const),
    ),
  )('%s by %s alone is within half a decibel, as loud', (_, way, bands) => {
    const found = sameShape(bands, way)
    if (!found) throw new Error('There is none.')
    expect(isShapedBy(found.bands, way)).toBe(true)
    expect(apart(bands, found.bands, found.gainDb)).toBeLessThan(0.5)
  })

  it('keeps cuts at the ends, which have no counterpart', () => {
    const cut = { ...newBand('low-cut', 80), slopeDbPerOct: 24 as const }
    const found = sameShape([cut, bell(2000, 4, 1)], 'cuts')
    expect(found?.bands[0]).toEqual(cut)
  })

  it('is not there for what no boosts can do, nor for one side alone', () => {
    expect(sameShape([bell(1000, -18, 12)], 'boosts')).toBeNull()
    expect(sameShape([{ ...bell(1000, 3, 1), channel: 'mid' }], 'cuts')).toBeNull()
    expect(sameShape([newBand('low-cut', 80)], 'cuts')).toBeNull()
  })
})
