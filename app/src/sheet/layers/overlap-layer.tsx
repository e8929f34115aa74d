import { makeBands } from '@sober-prism/core/spectrum'
import type { LiveReading } from '@sober-prism/engine'
import { useCallback, useEffect, useMemo } from 'react'
import { Plot, type Surface } from '../../plot/plot'
import { hzToX } from '../../plot/ruler'
import { useDesk } from '../../shell/desk-context'
import { liveLine, nodeName, useRouting } from '../../store/selectors'
import { levelPath, levelToY } from '../draw-sheet'
import { overlaps } from './overlaps'

const SIXTHS = makeBands('sixth')
const HATCH_PIXELS = 3
const HATCH_HEIGHT = 18
const SLANT_PIXELS = 7

/**
 * The key's spectrum, and strokes where it meets what yields: upright where their middles do, slanting where their sides do.
 * @param sides of the yielding one and of the key; null where they are not known.
 */
export function drawOverlaps(
  surface: Surface,
  key: Float32Array,
  own: Float32Array,
  sides: LiveReading['sides'],
  topDb: number,
): void {
  if (key.length < SIXTHS.length || own.length < SIXTHS.length) return
  const { context, width, height, sheet } = surface
  context.strokeStyle = sheet.ink
  context.lineWidth = 1.25
  levelPath(surface, SIXTHS, key, topDb)
  context.stroke()
  context.beginPath()
  const hatch = (ofKey: Float32Array, ofOwn: Float32Array, slant: number) => {
    for (const { band, levelDb } of overlaps(ofKey, ofOwn, topDb)) {
      const y = levelToY(levelDb, topDb, height)
      const to = hzToX(SIXTHS[band].toHz, width)
      const apart = slant === 0 ? HATCH_PIXELS : 2 * HATCH_PIXELS
      for (let x = hzToX(SIXTHS[band].fromHz, width); x < to; x += apart) {
        const at = Math.round(x) + 0.5
        context.moveTo(at + slant, y)
        context.lineTo(at, y + HATCH_HEIGHT)
      }
    }
  }
  hatch(key, own, 0)
  if (sides) hatch(sides[1], sides[0], SLANT_PIXELS)
  context.strokeStyle = sheet.warning
  context.lineWidth = 1
  context.stroke()
}

interface OverlapLayerProps {
  readonly node: string
  /** What the node yields to. */
  readonly keyNode: string
  readonly topDb: number
}

/** The key's spectrum over the yielding one while they sound, hatched where they meet at this moment. */
export function OverlapLayer({ node, keyNode, topDb }: OverlapLayerProps) {
  const desk = useDesk()
  const session = useRouting()
  const signals = useMemo(() => [desk.live], [desk])
  const [own, key] = [liveLine(session, node), liveLine(session, keyNode)]
  useEffect(() => {
    desk.player.compareSides([node, keyNode])
    return () => desk.player.compareSides(null)
  }, [desk, node, keyNode])
  const draw = useCallback(
    (surface: Surface) => {
      const reading = desk.player.playing ? desk.live.value : null
      if (!reading) return
      const rowOf = (line: number) =>
        reading.levels.subarray(line * SIXTHS.length, (line + 1) * SIXTHS.length)
      drawOverlaps(surface, rowOf(key), rowOf(own), reading.sides, topDb)
    },
    [desk, own, key, topDb],
  )
  return (
    <Plot
      className="over"
      draw={draw}
      signals={signals}
      label={`What sounds of ${nodeName(session, keyNode)} over ${nodeName(session, node)}, hatched where they meet, slanting at the sides, while it plays`}
    />
  )
}
