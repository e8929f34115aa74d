import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { drawnFir } from './drawn-curve'
import { readDense } from './filter-spectrum'
import { seriesHz, withNeedles } from './needles'

const RATE = 48000
const flat = {
  points: [
    { hz: 20, db: 0 },
    { hz: 20_000, db: 0 },
  ],
  joining: 'straight',
  axis: 'linear',
} as const
const design = {
  taps: 65_535,
  window: { kind: 'kaiser', attenuationDb: 80 },
  phase: 'linear',
} as const
const read = (points: { hz: number; db: number }[], hz: number[]) => {
  const { taps, latency } = drawnFir({ ...flat, points }, design, RATE)
  return readDense({ sections: [], kernels: [taps], latency }, hz, RATE).map((r) => r.db)
}

describe('needles', () => {
  it('take out a tone by more than 60 dB, and leave what is 30 Hz away', () => {
    const [at, below, above] = read(withNeedles(flat, [1000], 24), [1000, 970, 1030])
    expect(at).toBeLessThan(-60)
    expect(Math.abs(below)).toBeLessThan(0.5)
    expect(Math.abs(above)).toBeLessThan(0.5)
  })

  it('take out a series of ten harmonics', () => {
    const series = seriesHz({ hz: 220, count: 10, stretch: 0 }, RATE / 2)
    const levels = read(withNeedles(flat, series, 24), series)
    expect(series).toHaveLength(10)
    expect(Math.max(...levels)).toBeLessThan(-60)
  })

  it('keep the curve elsewhere, in order, however they stand', () => {
    const sloped = {
      ...flat,
      points: [
        { hz: 100, db: -6 },
        { hz: 5000, db: 6 },
      ],
    }
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 60, max: 15_000, noNaN: true }), { maxLength: 40 }),
        (hz) => {
          const points = withNeedles(sloped, hz, 20)
          points.forEach((p, i) => {
            expect(Number.isFinite(p.db)).toBe(true)
            if (i > 0) expect(p.hz).toBeGreaterThan(points[i - 1].hz)
          })
          for (const f of hz) {
            const near = points.filter((p) => Math.abs(p.hz - f) <= 10 + 1e-6)
            expect(near.length === 0 || near.some((p) => p.db === -120)).toBe(true)
          }
        },
      ),
    )
  })
})

describe('a harmonic series', () => {
  it('is of multiples, or of a stiff string', () => {
    expect(seriesHz({ hz: 100, count: 5, stretch: 0 }, 450)).toEqual([100, 200, 300, 400])
    const [first, , , fourth] = seriesHz({ hz: 100, count: 4, stretch: 0.001 }, RATE)
    expect(first).toBe(100)
    // 400 · √(1.016 / 1.001): 12.9 cents sharp.
    expect(1200 * Math.log2(fourth / 400)).toBeCloseTo(12.87, 1)
  })
})
