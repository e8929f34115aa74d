import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { type MatchByBands, TWELFTHS } from '@sober-prism/core/match'
import { chainOf, type Edit } from '@sober-prism/core/session'
import { newChainBand, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { useCallback, useMemo, useSyncExternalStore } from 'react'
import { Choice } from '../controls/choice'
import { Beside, BesideText } from '../controls/layout'
import { formatHzWithNote, signed } from '../format'
import { Plot, type Surface } from '../plot/plot'
import { plumb, plumbHandlers } from '../plot/plumb'
import { hzToX } from '../plot/ruler'
import { RulerPlot } from '../plot/ruler-plot'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { drawMatch } from './draw-match'
import { LeadHeard } from './lead-heard'
import { type Comparison, selectShape, shapeActions } from './shape-slice'

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
  if (!comparison || !way) return null
  const name = nodeName(session, comparison.node)
  const isPast = chainOf(session, comparison.node) !== comparison.chain
  return (
    <Beside
      sx={{ gridTemplateRows: 'minmax(0, 1fr) 34px' }}
      aria-label={`${name} to ${comparison.target}`}
    >
      <BesideText sx={{ gridRow: 'span 2' }}>
        <Typography variant="h3">
          {name} to {comparison.target}
        </Typography>
        <Take comparison={comparison} bands={bands} isPast={isPast} />
        {isPast && (
          <Typography variant="body2">
            The chain has changed. Compare again to see the error.
          </Typography>
        )}
        <Reading way={way} />
      </BesideText>
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
    </Beside>
  )
}

/** The wanted and the given at the plumb line. */
function Reading({ way }: { way: MatchByBands }) {
  const hz = useSyncExternalStore(plumb.watch, plumb.read)
  const at = hz === null ? -1 : TWELFTHS.findIndex((b) => b.toHz > hz)
  const text =
    hz === null || at < 0
      ? 'dotted: target\nline: actual'
      : way.weight[at] === 0
        ? `${formatHzWithNote(hz)}\nunchanged: only noise here`
        : `${formatHzWithNote(hz)}\ntarget ${signed(way.wantedDb[at])} dB\nactual ${signed(way.givenDb[at])} dB`
  return (
    <Typography variant="figure" sx={{ minHeight: 58, whiteSpace: 'pre-wrap' }}>
      {text}
    </Typography>
  )
}

interface TakeProps {
  readonly comparison: Comparison
  readonly bands: number
  /** Whether the chain is another one since: what is foreseen would stand on top of it. */
  readonly isPast: boolean
}

/** Number of bands, what then remains, and both ways to take it. */
function Take({ comparison, bands, isPast }: TakeProps) {
  const { node, target, ways } = comparison
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const way = ways.byBands[bands]
  const options = ways.byBands.map(
    (w, i) => [i, `${countOf(i)}: ${w.rmsErrorDb.toFixed(1)} dB RMS error`] as const,
  )
  const output = chainOf(useSession(), node)?.output
  const take = (treatment: Treatment, outputDb = 0) => {
    const edits: Edit[] = [{ kind: 'add-treatment', node, treatment, before: null }]
    if (output && Math.abs(outputDb) >= 0.05) {
      const gainDb = Math.round(10 * (output.gainDb + outputDb)) / 10
      const change = { gainDb: Math.max(-48, Math.min(24, gainDb)) }
      edits.push({ kind: 'set-chain-output', node, change })
    }
    edit(edits)
    dispatch(interfaceActions.nodeChosen(node))
    dispatch(interfaceActions.treatmentChosen({ node, treatmentId: treatment.id, stage: 'shape' }))
    dispatch(interfaceActions.noticeShown(`Matched to ${target}.`, 'info', 'edit'))
  }
  return (
    <>
      <Choice
        label="Number of bands"
        value={bands}
        options={options}
        onChange={(n) => dispatch(shapeActions.bandsCounted(n))}
      />
      {bands > 0 && !isPast && (
        <LeadHeard
          edits={[
            {
              kind: 'add-treatment',
              node,
              treatment: equaliserOf(comparison, way, (i) => `${i}`),
              before: null,
            },
            { kind: 'change-output-gain', node, db: way.outputDb },
          ]}
        />
      )}
      <Button
        disabled={bands === 0}
        onClick={() => take(equaliserOf(comparison, way), way.outputDb)}
      >
        {bands === 0 ? 'No band needed' : `Apply ${countOf(bands)}`}
      </Button>
      <Button onClick={() => take(filterOf(comparison))}>Apply as one filter</Button>
      <Button
        variant="text"
        sx={{ justifySelf: 'start' }}
        onClick={() => dispatch(shapeActions.closed())}
      >
        Close
      </Button>
    </>
  )
}

function countOf(bands: number): string {
  return bands === 0 ? 'no band' : bands === 1 ? '1 band' : `${bands} bands`
}

function equaliserOf(
  { target }: Comparison,
  { bands, rmsErrorDb }: MatchByBands,
  newId: (index: number) => string = () => crypto.randomUUID(),
): Treatment {
  const chainBands = bands.map((band, i) => newChainBand(newId(i + 1), band))
  const params = { phase: 'minimum', bands: chainBands } as const
  return {
    ...newTreatment('equaliser', newId(0), 'shape', params),
    reason: `Match to ${target}; ${rmsErrorDb.toFixed(1)} dB RMS error`,
  }
}

function filterOf({ pair, target, settings, ways }: Comparison): Treatment {
  const usual = newTreatment('match', 'usual', 'shape').params
  const params = {
    ...usual,
    ...settings,
    target: target.slice(0, 200),
    haveDb: [...pair.haveDb],
    wantDb: [...pair.wantDb],
    weight: [...pair.weight],
    zeroDb: ways.zeroDb,
  }
  return {
    ...newTreatment('match', crypto.randomUUID(), 'shape', params),
    reason: `Match to ${target}`,
  }
}
