import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import type { LineUpPicture } from '@sober-prism/core/findings'
import { useCallback } from 'react'
import { signed } from '../format'
import { FIGURE_FONT } from '../plot/inks'
import { Plot, type Surface } from '../plot/plot'

interface LineUpPicturesProps {
  readonly picture: LineUpPicture
  readonly lead: string
  readonly name: string
  readonly rateHz: number
}

/** The lead's strongest stroke with the other's over it, as it is and lined up; and what the sum gains per octave. */
export function LineUpPictures({ picture, lead, name, rateHz }: LineUpPicturesProps) {
  const { stroke, bands } = picture
  const draw = useCallback(
    ({ context, width, height, sheet }: Surface) => {
      const { lead: first, before, after, at } = stroke
      const most = first.reduce((a, v) => Math.max(a, Math.abs(v)), 1e-9)
      const line = (signal: Float32Array, ink: string, wide: number, dash: number[]) => {
        context.strokeStyle = ink
        context.lineWidth = wide
        context.setLineDash(dash)
        context.beginPath()
        signal.forEach((v, i) => {
          const x = (i / (signal.length - 1)) * width
          const y = (height / 2) * (1 - (0.9 * v) / most)
          if (i === 0) context.moveTo(x, y)
          else context.lineTo(x, y)
        })
        context.stroke()
        context.setLineDash([])
      }
      context.strokeStyle = sheet.line
      context.lineWidth = 1
      context.strokeRect(0.5, 0.5, width - 1, height - 1)
      line(first, sheet.ink, 1.5, [])
      line(before, sheet.inkSoft, 1, [2, 2])
      line(after, sheet.accent, 1.25, [])
      context.font = FIGURE_FONT
      context.fillStyle = sheet.inkSoft
      context.textBaseline = 'bottom'
      context.textAlign = 'left'
      context.fillText(`${((1000 * -at) / rateHz).toFixed(0)} ms`, 4, height - 3)
      context.textAlign = 'right'
      const end = (1000 * (first.length - at)) / rateHz
      context.fillText(`${end.toFixed(0)} ms`, width - 4, height - 3)
    },
    [stroke, rateHz],
  )
  return (
    <>
      <Plot
        style={{ height: 110 }}
        draw={draw}
        label={`A transient of ${lead} in ink; ${name} as it is, dotted, and aligned, in colour`}
      />
      <Typography variant="body2" color="textSecondary">
        {lead} in ink; {name} as it is, dotted, and lined up, in colour. What the sum gains, in dB:
      </Typography>
      <Box
        component="dl"
        sx={{
          display: 'grid',
          gridTemplateColumns: 'repeat(4, 1fr)',
          gap: '4px 8px',
          '& dt': { color: 'text.secondary', fontSize: 12.5 },
        }}
      >
        {bands.map(({ hz, gainDb }) => (
          <div key={hz}>
            <dt>{hz >= 1000 ? `${hz / 1000} kHz` : `${hz} Hz`}</dt>
            <dd className="figure">{gainDb === null ? '–' : signed(gainDb, 1)}</dd>
          </div>
        ))}
      </Box>
    </>
  )
}
