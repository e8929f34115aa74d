import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AHEAD_FRAMES, placesIn, spansAhead } from './feed-plan'
import { makeWindow, SLOT_FRAMES, WindowSource } from './window-source'

const FRAMES = 12 * SLOT_FRAMES + 500
const value = (frame: number) => (frame % 8191) / 8191
const slot = (place: number) => [
  Float32Array.from({ length: SLOT_FRAMES }, (_, i) => value(place * SLOT_FRAMES + i)),
]

describe('a window on a recording', () => {
  it('gives what was filled in, silence around the recording, and tells what is missing', () => {
    const window = makeWindow(1, FRAMES, 1)
    const [feeder, player] = [new WindowSource(window), new WindowSource(window)]
    const wanted = new Set([2, 3])
    for (const place of wanted) expect(feeder.fill(place, slot(place), wanted)).toBe(true)
    const out = new Float32Array(1000)
    const from = 3 * SLOT_FRAMES - 500
    expect(player.read(0, from, out, 1000)).toBe(true)
    out.forEach((v, i) => {
      expect(v).toBeCloseTo(value(from + i), 6)
    })
    expect(player.read(0, 0, out, 10)).toBe(false)
    expect(player.read(0, -2000, out, 1000)).toBe(true)
    expect(player.read(0, FRAMES, out, 1000)).toBe(true)
    expect(player.holds(2 * SLOT_FRAMES, 4 * SLOT_FRAMES)).toBe(true)
    expect(player.holds(2 * SLOT_FRAMES, 4 * SLOT_FRAMES + 1)).toBe(false)
    expect(player.holds(-100, 0)).toBe(true)
  })

  it('never lets go of what is still wanted', () => {
    const source = new WindowSource(makeWindow(1, FRAMES, 1))
    const wanted = new Set([0, 1, 2, 3, 4, 5, 6, 7])
    for (const place of wanted) source.fill(place, slot(place), wanted)
    expect(source.fill(8, slot(8), new Set([...wanted, 8]))).toBe(false)
    expect(source.fill(8, slot(8), new Set([4, 5, 6, 7, 8]))).toBe(true)
    expect([0, 4, 8].map((p) => source.has(p))).toEqual([false, true, true])
  })
})

describe('what is going to be played', () => {
  it('always fits into a window, loops and offsets included, and begins with where it is', () => {
    const frame = fc.integer({ min: 0, max: FRAMES })
    fc.assert(
      fc.property(
        frame,
        fc.option(fc.tuple(frame, fc.integer({ min: 1000, max: 6 * SLOT_FRAMES }))),
        fc.integer({ min: -50_000, max: 50_000 }),
        (at, loop, offset) => {
          const passage = loop && { fromFrame: loop[0], toFrame: loop[0] + loop[1] }
          const places = placesIn(spansAhead(at, passage), offset, FRAMES)
          expect(places.length).toBeLessThanOrEqual(8)
          const first = Math.floor((at - offset) / SLOT_FRAMES)
          if (at - offset >= 0 && at - offset < FRAMES) expect(places[0]).toBe(first)
        },
      ),
    )
    const [one, two] = spansAhead(1000, { fromFrame: 500, toFrame: 2000 })
    expect(one).toEqual({ fromFrame: 1000, toFrame: 2000 })
    expect(two.toFrame).toBe(2000)
    expect(spansAhead(0, null)).toEqual([{ fromFrame: 0, toFrame: AHEAD_FRAMES }])
  })
})
