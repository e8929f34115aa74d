import { describe, expect, it } from 'vitest'
import { CELLS, type LevelGrid } from './level-grid'
import { peakCurves } from './peaks'

const FRAMES = 140

/** Frames with partials at some cells, on a slope; between them 30 dB less. */
function gridOf(cellsOf: (frame: number) => readonly number[], raise: (cell: number) => number) {
  const levels = new Float32Array(FRAMES * CELLS)
  for (let f = 0; f < FRAMES; f++) {
    for (let c = 0; c < CELLS; c++) levels[f * CELLS + c] = -80 - 0.1 * c
    for (const c of cellsOf(f)) levels[f * CELLS + c] += 30 + raise(c)
  }
  return { frames: FRAMES, levels } as LevelGrid
}
/** Every tenth cell, in every frame one further. */
const moving = (f: number) => Array.from({ length: 34 }, (_, i) => 10 * i + 4 + (f % 10))

describe('peaks against the peaks around them', () => {
  it('stand as high as their neighbours on a slope, however deep the valleys are', () => {
    const { mean, low, high, overBeside } = peakCurves(gridOf(moving, () => 0))
    for (let c = 40; c < 320; c++) {
      expect(Math.abs(mean[c])).toBeLessThan(0.3)
      expect(Math.abs(low[c])).toBeLessThan(0.5)
      expect(Math.abs(high[c])).toBeLessThan(0.5)
      expect(Math.abs(overBeside[c])).toBeLessThan(0.5)
    }
  })

  it('show what raises every partial that passes a place', () => {
    const bell = (c: number) => 12 / (1 + ((c - 180) / 2) ** 2)
    const { mean, low, steadiness, leastPart, overBeside } = peakCurves(gridOf(moving, bell))
    const best = mean.indexOf(Math.max(...mean))
    expect(Math.abs(best - 180)).toBeLessThanOrEqual(1)
    expect(mean[180]).toBeGreaterThan(6)
    expect(low[180]).toBeGreaterThan(4)
    expect(leastPart[180]).toBeGreaterThan(6)
    expect(steadiness[180]).toBeGreaterThan(2)
    expect(overBeside[180]).toBeGreaterThan(5)
  })

  it('tell one loud note that lasts through one part from a place that raises all', () => {
    // One note at 181 is loud in the first seventh of the time, others pass softly afterwards.
    const once = gridOf(moving, () => 0)
    for (let f = 0; f < FRAMES / 7; f++) once.levels[f * CELLS + 181] = -80 - 18.1 + 45
    const note = peakCurves(once)
    const ring = peakCurves(gridOf(moving, (c) => (Math.abs(c - 181) <= 2 ? 12 : 0)))
    expect(note.leastPart[181]).toBeLessThan(2)
    expect(note.low[181]).toBeLessThan(ring.low[181] - 5)
    expect(ring.steadiness[181]).toBeGreaterThan(note.steadiness[181] + 1)
  })

  it('say nothing where no partial comes by, and of no frames at all', () => {
    const { mean, share, high } = peakCurves(
      gridOf(
        () => [100, 110, 120],
        () => 0,
      ),
    )
    expect(mean[250]).toBe(0)
    expect(share[250]).toBe(0)
    expect(high[250]).toBe(0)
    expect(share[110]).toBeGreaterThan(0.9)
    const empty = peakCurves({ frames: 0, levels: new Float32Array(0) } as LevelGrid)
    expect(empty.mean.every((v) => v === 0)).toBe(true)
    expect(empty.low.every(Number.isFinite)).toBe(true)
  })
})
