// @vitest-environment happy-dom

import { makeBands } from '@sober-prism/core/spectrum'
import { screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { SHEETS } from '../../plot/inks'
import { hzToX } from '../../plot/ruler'
import { recorder } from '../../testing/recorder'
import { sessionOf, show } from '../../testing/render'
import { drawOverlaps, OverlapLayer } from './overlap-layer'

const SIXTHS = makeBands('sixth')
const WIDTH = 600
/** Levels of -80 dB, but for a range. */
const levels = (fromHz: number, toHz: number, db: number) =>
  Float32Array.from(SIXTHS, (b) => (b.hz > fromHz && b.hz < toHz ? db : -80))
const silent = levels(1, 2, 0)

function strokes(
  key: Float32Array,
  own: Float32Array,
  sides: Parameters<typeof drawOverlaps>[3] = null,
) {
  const { surface, drawing } = recorder(WIDTH, 200)
  drawOverlaps(surface, key, own, sides, -10)
  const hatch = drawing.strokes.find((s) => s.ink === SHEETS.light.warning)
  const points = hatch?.points ?? []
  // Each stroke is a pair of points.
  const lines = Array.from({ length: points.length / 2 }, (_, i) => ({
    x: points[2 * i + 1][0],
    slant: points[2 * i][0] - points[2 * i + 1][0],
  }))
  return {
    key: drawing.strokes.find((s) => s.ink === SHEETS.light.ink),
    upright: lines.filter((l) => l.slant === 0),
    slanting: lines.filter((l) => l.slant !== 0),
  }
}
const isWithin = (xs: readonly { x: number }[], fromHz: number, toHz: number) =>
  xs.every(({ x }) => x >= hzToX(fromHz, WIDTH) - 8 && x <= hzToX(toHz, WIDTH) + 8)

describe('where a key meets what yields to it', () => {
  const key = levels(300, 3000, -25)
  const own = levels(1000, 8000, -22)

  it('stand upright strokes where the middles meet, under the key’s own line', () => {
    const drawn = strokes(key, own)
    expect(drawn.key?.points.length).toBeGreaterThan(10)
    expect(drawn.upright.length).toBeGreaterThan(5)
    expect(isWithin(drawn.upright, 1000, 3000)).toBe(true)
    expect(drawn.slanting).toEqual([])
  })

  it('slant strokes where the sides meet, and only there', () => {
    const drawn = strokes(key, silent, [levels(4000, 9000, -30), levels(4000, 6000, -31)])
    expect(drawn.upright).toEqual([])
    expect(drawn.slanting.length).toBeGreaterThan(1)
    expect(isWithin(drawn.slanting, 4000, 6000)).toBe(true)
  })

  it('is nothing where one of the two has no sides', () => {
    expect(strokes(key, silent, [silent, levels(4000, 6000, -31)]).slanting).toEqual([])
  })

  it('is nothing for lines that are not there', () => {
    expect(strokes(new Float32Array(), own).key).toBeUndefined()
  })

  it('asks for the sides of both while it is shown, and no longer', () => {
    const { desk, unmount } = show(
      <OverlapLayer node="t0" keyNode="t1" topDb={0} />,
      sessionOf(['Guitar', 'Voice']),
    )
    screen.getByRole('img', { name: /^What sounds of Voice over Guitar, hatched where they meet/ })
    expect(desk.player.compareSides.mock.calls).toEqual([[['t0', 't1']]])
    unmount()
    expect(desk.player.compareSides).toHaveBeenLastCalledWith(null)
  })
})
