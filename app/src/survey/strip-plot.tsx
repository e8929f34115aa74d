import { memo, useCallback, useMemo } from 'react'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers, plumbMark } from '../plot/plumb'
import { xToHz } from '../plot/ruler'
import { bandAt, drawPlumb, drawStrip, type StripPicture } from '../plot/strip'
import { useDesk } from '../shell/desk-context'

const NONE: readonly never[] = []

/** Plain values, and lists that stay the same: it is drawn anew only when one of them changes. */
interface StripPlotProps
  extends Pick<StripPicture, 'bands' | 'levels' | 'topDb'>,
    Partial<Pick<StripPicture, 'covered' | 'winnable' | 'open'>> {
  readonly label: string
  readonly node: string
  /** What is added to the measured level to give the level in the mix. */
  readonly gainDb: number
  /** Row of the live reading; `null` for what does not sound. */
  readonly line: number | null
  readonly muted?: boolean
  readonly onDouble?: (node: string) => void
  /** A hatched place was pressed: the finding whose move gives it back. */
  readonly onPlace?: (finding: string) => void
}

/** One strip. */
export const StripPlot = memo(function StripPlot(props: StripPlotProps) {
  const { node, label, gainDb, line, muted = false, onDouble, onPlace } = props
  const desk = useDesk()
  const signals = useMemo(() => [plumb, plumbMark, desk.live], [desk])
  const { bands, levels, topDb, covered = NONE, winnable = NONE, open = false } = props
  const draw = useCallback(
    (surface: Surface) => {
      const reading = desk.player.playing && line !== null ? desk.live.value : null
      const from = (line ?? 0) * bands.length
      const live = reading && {
        // Live levels are taken behind the fader, the picture stands before it.
        levels: Array.from(reading.levels.subarray(from, from + bands.length), (v) => v - gainDb),
      }
      drawStrip(surface, { bands, levels, topDb, covered, winnable, open }, live)
      const read = (hz: number) => (levels ? levels[bandAt(bands, hz)] + gainDb : null)
      if (plumbMark.value !== null) drawPlumb(surface, plumbMark.value, null, 'mark')
      const hz = plumb.value
      if (hz === null) return
      const [now, before] = [read(hz), plumbMark.value === null ? null : read(plumbMark.value)]
      drawPlumb(surface, hz, now, 'plumb', before === null || now === null ? null : now - before)
    },
    [desk, bands, levels, topDb, covered, winnable, open, gainDb, line],
  )
  return (
    <Plot
      style={{ cursor: 'crosshair', opacity: muted ? 0.35 : 1 }}
      draw={draw}
      signals={signals}
      label={label}
      onClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect()
        const hz = xToHz(event.clientX - box.left, box.width)
        const place = winnable.find((p) => hz >= p.fromHz && hz <= p.toHz)
        if (place) onPlace?.(place.finding)
      }}
      onDoubleClick={onDouble && (() => onDouble(node))}
      {...plumbHandlers}
    />
  )
})
