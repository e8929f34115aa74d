import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import type { MatchByBands } from '@sober-prism/core/match'
import { chainOf, type Edit } from '@sober-prism/core/session'
import { newChainBand, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { Choice } from '../controls/choice'
import { Row } from '../controls/layout'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { LeadHeard } from './lead-heard'
import { type Comparison, selectShape, shapeActions } from './shape-slice'

/** What a comparison came to: number of bands, what then remains, and both ways to take it. */
export function TakeMatch({ comparison }: { comparison: Comparison }) {
  const session = useSession()
  const { bands } = useAppSelector(selectShape)
  const { node, target, ways } = comparison
  // What is foreseen would stand on top of a chain that is another one since.
  const isPast = chainOf(session, node) !== comparison.chain
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const way = ways.byBands[bands]
  const options = ways.byBands.map(
    (w, i) => [i, `${countOf(i)}: ${w.rmsErrorDb.toFixed(1)} dB RMS error`] as const,
  )
  const output = chainOf(session, node)?.output
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
      <Typography variant="h3">
        {nodeName(session, node)} to {target}
      </Typography>
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
      <Row>
        <Button
          disabled={bands === 0}
          onClick={() => take(equaliserOf(comparison, way), way.outputDb)}
        >
          {bands === 0 ? 'No band needed' : `Apply ${countOf(bands)}`}
        </Button>
        <Button onClick={() => take(filterOf(comparison))}>Apply as one filter</Button>
      </Row>
      {isPast && (
        <Typography variant="body2">
          The chain has changed. Compare again to see the error.
        </Typography>
      )}
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
