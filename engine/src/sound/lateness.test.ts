import { describe, expect, it } from 'vitest'
import { GapFinder } from './lateness'

/** Reads two clocks every half second; the audio clock moves in steps of `buffer` and loses what `lost` says. */
function gapsOf(seconds: number, buffer: number, lost: (second: number) => number): number[] {
  const finder = new GapFinder(buffer)
  const found: number[] = []
  let gone = 0
  for (let t = 0; t < seconds; t += 0.5) {
    gone += lost(t)
    const audio = Math.floor((t - gone) / buffer) * buffer
    const gap = finder.note(audio, 1000 + t)
    if (gap > 0) found.push(gap)
  }
  return found
}

describe('gaps in the sound', () => {
  it.each([0.003, 0.01, 0.1])('are none while both clocks go on, in buffers of %d s', (buffer) => {
    expect(gapsOf(600, buffer, () => 0)).toEqual([])
  })

  it('are found with their length', () => {
    const found = gapsOf(100, 0.003, (t) => (t === 20 ? 0.1 : t === 60.5 ? 0.5 : 0))
    expect(found).toHaveLength(2)
    expect(found[0]).toBeCloseTo(0.1, 2)
    expect(found[1]).toBeCloseTo(0.5, 2)
  })

  it.each([-2e-4, 2e-4])('are none when the clocks drift apart by %d', (drift) => {
    const finder = new GapFinder(0.003)
    for (let t = 0; t < 3600; t += 0.5) expect(finder.note(t * (1 - drift), 50 + t)).toBe(0)
  })

  it('are not made by a pause', () => {
    const finder = new GapFinder(0.003)
    finder.note(1, 100)
    finder.pause()
    expect(finder.note(1.5, 200)).toBe(0)
    expect(finder.note(2, 200.5)).toBe(0)
  })
})
