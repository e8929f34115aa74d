import { probeBands } from '@sober-prism/engine'
import { useCallback, useEffect, useMemo, useRef } from 'react'
import { Plot, type Surface } from '../../plot/plot'
import { useDesk } from '../../shell/desk-context'
import { useAppSelector } from '../../store/store'
import { levelPath } from '../draw-sheet'
import { selectSheet } from '../sheet-slice'

/** Where a tilt turns about. */
const PIVOT_HZ = 1000

interface LiveSpectraProps {
  readonly node: string
  readonly topDb: number
  /** Its fader: it is probed before that, and stands on the sheet as it is in the mix. */
  readonly gainDb: number
}

/** What goes into a node's chain, dotted, and what comes out of it, while it sounds. */
export function LiveSpectra({ node, topDb, gainDb }: LiveSpectraProps) {
  const desk = useDesk()
  const { live, probe, tilt, hold, frozen } = useAppSelector(selectSheet)
  const signals = useMemo(() => [desk.live], [desk])
  const bands = useMemo(() => probeBands(probe.resolution), [probe.resolution])
  const tilts = useMemo(() => bands.map(({ hz }) => tilt * Math.log2(hz / PIVOT_HZ)), [bands, tilt])
  const shown = useRef<{ before: Float32Array; after: Float32Array } | null>(null)
  const held = useRef<Float32Array | null>(null)

  useEffect(() => {
    desk.player.probe(live ? node : null, probe)
    shown.current = null
    held.current = null
    return () => desk.player.probe(null, probe)
  }, [desk, node, live, probe])
  useEffect(() => {
    if (!hold) held.current = null
  }, [hold])

  const draw = useCallback(
    (surface: Surface) => {
      const { context, sheet } = surface
      const reading = desk.live.value?.probe ?? null
      if (!frozen && desk.player.playing && reading?.after.length === bands.length) {
        shown.current = reading
        if (hold) {
          const before = held.current
          held.current = reading.after.map((v, b) => Math.max(v, before?.[b] ?? v))
        }
      }
      const line = (levels: Float32Array, ink: string, dash: number[], wide: number) => {
        context.strokeStyle = ink
        context.lineWidth = wide
        context.setLineDash(dash)
        levelPath(
          surface,
          bands,
          levels.map((v, b) => v + tilts[b] + gainDb),
          topDb,
        )
        context.stroke()
        context.setLineDash([])
      }
      if (!live || (!frozen && !desk.player.playing && !hold)) return
      if (held.current) line(held.current, sheet.inkSoft, [], 1)
      if (!shown.current) return
      line(shown.current.before, sheet.inkSoft, [1.5, 2.5], 1.25)
      line(shown.current.after, sheet.accent, [], 1.5)
    },
    [desk, bands, tilts, topDb, gainDb, live, hold, frozen],
  )
  return <Plot className="over" draw={draw} signals={signals} />
}
