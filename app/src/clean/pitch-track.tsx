import { useCallback } from 'react'
import { formatHz } from '../format'
import { FIGURE_FONT } from '../plot/inks'
import { Plot, type Surface } from '../plot/plot'

interface PitchTrackProps {
  /** The pitch of each frame in turn, in Hz; 0 where there is none. */
  readonly track: Float32Array
  /** The lowest note. */
  readonly hz: number
  readonly cutHz: number
}

/** Room at the right for what the lines are, and how far apart that is written at least, in pixels. */
const LABELS = 78
const LINE_HEIGHT = 14

/** The pitch over the passage, from left to right, with the lowest note and the cut that lies under it. */
export function PitchTrack({ track, hz, cutHz }: PitchTrackProps) {
  const pitched = track.filter((f) => f > 0)
  const [lowHz, highHz] = [0.8 * Math.min(cutHz, ...pitched), 1.15 * Math.max(hz, ...pitched)]
  const draw = useCallback(
    ({ context, width, height, sheet }: Surface) => {
      const toY = (f: number) => height * (1 - Math.log(f / lowHz) / Math.log(highHz / lowHz))
      const line = (f: number, ink: string, dash: number[]) => {
        const y = Math.round(toY(f)) + 0.5
        context.strokeStyle = ink
        context.setLineDash(dash)
        context.beginPath()
        context.moveTo(0, y)
        context.lineTo(width, y)
        context.stroke()
        context.setLineDash([])
      }
      line(hz, sheet.accent, [])
      line(cutHz, sheet.warning, [4, 3])
      context.fillStyle = sheet.ink
      const across = width - LABELS
      const wide = Math.max(2, across / track.length)
      track.forEach((f, i) => {
        if (f > 0) context.fillRect((i / track.length) * across, toY(f) - 1, wide, 2)
      })
      context.font = FIGURE_FONT
      context.textAlign = 'right'
      context.textBaseline = 'bottom'
      context.fillStyle = sheet.inkSoft
      const noteY = toY(hz) - 2
      context.fillText(formatHz(hz), width - 2, noteY)
      const cutY = Math.min(height - 1, Math.max(toY(cutHz) - 2, noteY + LINE_HEIGHT))
      context.fillText(`cut ${formatHz(cutHz)}`, width - 2, cutY)
    },
    [track, hz, cutHz, lowHz, highHz],
  )
  return (
    <Plot
      style={{ height: 84 }}
      draw={draw}
      label={`Pitch over the passage, from ${formatHz(Math.min(hz, ...pitched))} to ${formatHz(Math.max(hz, ...pitched))}; the lowest note is ${formatHz(hz)}`}
    />
  )
}
