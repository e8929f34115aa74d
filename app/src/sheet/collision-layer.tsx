import { makeBands } from '@sober-prism/core/spectrum'
import { useCallback, useMemo } from 'react'
import { Plot, type Surface } from '../plot/plot'
import { hzToX } from '../plot/ruler'
import { useDesk } from '../shell/desk-context'
import { liveLine, nodeName, useRouting } from '../store/selectors'
import { collisions } from './collisions'
import { levelPath, levelToY } from './draw-sheet'

const SIXTHS = makeBands('sixth')
const HATCH_PIXELS = 3
const HATCH_HEIGHT = 18

interface CollisionLayerProps {
  readonly node: string
  /** What the node yields to. */
  readonly keyNode: string
  readonly topDb: number
}

/** The key's spectrum over the yielding one while they sound, hatched where they meet at this moment. */
export function CollisionLayer({ node, keyNode, topDb }: CollisionLayerProps) {
  const desk = useDesk()
  const session = useRouting()
  const signals = useMemo(() => [desk.live], [desk])
  const [own, key] = [liveLine(session, node), liveLine(session, keyNode)]
  const draw = useCallback(
    (surface: Surface) => {
      const reading = desk.player.playing ? desk.live.value : null
      if (!reading) return
      const { context, width, height, sheet } = surface
      const rowOf = (line: number) =>
        reading.levels.subarray(line * SIXTHS.length, (line + 1) * SIXTHS.length)
      const [ofKey, ofOwn] = [rowOf(key), rowOf(own)]
      if (ofKey.length < SIXTHS.length || ofOwn.length < SIXTHS.length) return
      context.strokeStyle = sheet.ink
      context.lineWidth = 1.25
      levelPath(surface, SIXTHS, ofKey, topDb)
      context.stroke()
      context.beginPath()
      for (const { band, levelDb } of collisions(ofKey, ofOwn, topDb)) {
        const y = levelToY(levelDb, topDb, height)
        const to = hzToX(SIXTHS[band].toHz, width)
        for (let x = hzToX(SIXTHS[band].fromHz, width); x < to; x += HATCH_PIXELS) {
          context.moveTo(Math.round(x) + 0.5, y)
          context.lineTo(Math.round(x) + 0.5, y + HATCH_HEIGHT)
        }
      }
      context.strokeStyle = sheet.warning
      context.lineWidth = 1
      context.stroke()
    },
    [desk, own, key, topDb],
  )
  return (
    <Plot
      className="over"
      draw={draw}
      signals={signals}
      label={`What sounds of ${nodeName(session, keyNode)} over ${nodeName(session, node)}, hatched where they meet, while it plays`}
    />
  )
}
