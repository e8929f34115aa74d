import CloseIcon from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { type MatchByBands, TWELFTHS } from '@sober-prism/core/match'
import { useCallback, useMemo, useSyncExternalStore } from 'react'
import { IconAction } from '../controls/icon-action'
import { Row } from '../controls/layout'
import { formatHzWithNote, signed } from '../format'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers } from '../plot/plumb'
import { hzToX } from '../plot/ruler'
import { RulerPlot } from '../plot/ruler-plot'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { drawMatch } from './draw-match'
import { selectShape, shapeActions } from './shape-slice'

const SIGNALS = [plumb]

/** Both sounds of a comparison, the wanted and the given correction, and what remains, on the ruler of the sheet below. */
export function MatchPicture() {
  const session = useSession()
  const { comparison, bands } = useAppSelector(selectShape)
  const way = comparison?.ways.byBands[bands]
  const picture = useMemo(
    () => (comparison && way ? { ...comparison, ...way } : null),
    [comparison, way],
  )
  const draw = useCallback(
    (surface: Surface) => {
      if (!picture) return
      drawMatch(surface, picture)
      if (plumb.value === null) return
      const { context, width, height, sheet } = surface
      const x = Math.round(hzToX(plumb.value, width)) + 0.5
      context.strokeStyle = sheet.accent
      context.lineWidth = 1
      context.beginPath()
      context.moveTo(x, 0)
      context.lineTo(x, height)
      context.stroke()
    },
    [picture],
  )
  const dispatch = useAppDispatch()
  if (!comparison || !way) return null
  const name = nodeName(session, comparison.node)
  return (
    <Box
      component="section"
      sx={{
        display: 'grid',
        gridTemplate: 'auto minmax(0, 1fr) 34px / minmax(0, 1fr)',
        minWidth: 0,
        minHeight: 0,
        overflow: 'hidden',
      }}
      aria-label={`${name} to ${comparison.target}`}
    >
      <Row sx={{ flexWrap: 'nowrap', minHeight: 32, p: '2px 8px 2px 10px' }}>
        <Typography variant="h3" noWrap>
          {name} to {comparison.target}
        </Typography>
        <Reading way={way} />
        <IconAction
          label="Close the comparison"
          icon={<CloseIcon />}
          onClick={() => dispatch(shapeActions.closed())}
        />
      </Row>
      <Plot
        style={{ minHeight: 0 }}
        draw={draw}
        signals={SIGNALS}
        label={
          comparison.from
            ? `Spectra of ${name}, a line, and of ${comparison.target}, a band with its spread, at equal loudness; below them the target correction, dotted, the actual one, and the error`
            : `The target correction, dotted, the actual one, and the error`
        }
        {...plumbHandlers}
      />
      <Box sx={{ display: 'grid', minWidth: 0 }}>
        <RulerPlot />
      </Box>
    </Box>
  )
}

/** The wanted and the given at the plumb line. */
function Reading({ way }: { way: MatchByBands }) {
  const hz = useSyncExternalStore(plumb.watch, plumb.read)
  const at = hz === null ? -1 : TWELFTHS.findIndex((b) => b.toHz > hz)
  const text =
    hz === null || at < 0
      ? 'Dotted: target. Line: actual.'
      : way.weight[at] === 0
        ? `${formatHzWithNote(hz)}  unchanged: only noise here`
        : `${formatHzWithNote(hz)}  target ${signed(way.wantedDb[at])} dB, actual ${signed(way.givenDb[at])} dB`
  return (
    <Typography variant="figure" noWrap color="textSecondary" sx={{ flex: 1, minWidth: 0 }}>
      {text}
    </Typography>
  )
}
