import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { LOW_END_BANDS } from '@sober-prism/core/findings'
import { chainOf } from '@sober-prism/core/session'
import { newTreatment, type Treatment } from '@sober-prism/core/treatments'
import type { LowEndPair } from '@sober-prism/engine'
import { useCallback } from 'react'
import { Row } from '../../controls/layout'
import { signed } from '../../format'
import { Plot, type Surface } from '../../plot/plot'
import { useAsked } from '../../shell/use-asked'
import { interfaceActions } from '../../store/interface-slice'
import { openSession } from '../../store/selectors'
import { useSettledSession } from '../../store/settled'
import { useAppDispatch, useAppSelector, useEdit } from '../../store/store'
import { drawLowEnd } from './draw-low-end'
import { ReadingPanel } from './reading-panel'

const METERS = [
  ['left', 'left'],
  ['right', 'right'],
  ['mid', 'middle'],
  ['side', 'sides'],
] as const

interface LowEndProps {
  readonly node: string
  /** The treatment that stands on the sheet. */
  readonly shown: Treatment | null
}

/** Left against right in the low end, over the passage, without what brings it to the middle and with it. */
export function LowEndBelow({ node, shown }: LowEndProps) {
  const lowMiddle = shown?.kind === 'low-middle' ? shown : null
  const hz = lowMiddle?.params.hz ?? null
  const pair = useLowEnd(node, lowMiddle?.id ?? null, hz)
  const draw = useCallback((surface: Surface) => pair && drawLowEnd(surface, pair), [pair])
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const { stage } = useAppSelector((root) => root.interface)
  const present = useAppSelector((root) =>
    chainOf(openSession(root), node)?.treatments.find((t) => t.kind === 'low-middle'),
  )
  /** Selects the one that stands in the chain, or adds one. */
  const show = () => {
    const treatment = present ?? newTreatment('low-middle', crypto.randomUUID(), stage)
    if (!present) edit([{ kind: 'add-treatment', node, treatment, before: null }])
    dispatch(
      interfaceActions.treatmentChosen({ treatmentId: treatment.id, stage: treatment.stage }),
    )
  }
  if (!lowMiddle) {
    return (
      <ReadingPanel aria-label="Low end">
        <Row sx={{ p: 1.5 }}>
          <Typography color="textSecondary">This reads what “Mono low end” does.</Typography>
          <Button onClick={show}>{present ? 'Select it' : 'Add it to the chain'}</Button>
        </Row>
      </ReadingPanel>
    )
  }
  return (
    <ReadingPanel aria-label="Low end">
      <Row sx={{ gap: '2px 10px', p: '4px 12px 4px 10px' }}>
        <Typography variant="h2">Low end</Typography>
        <Typography variant="figure">{pair ? metersText(pair, hz ?? 0) : 'Measuring…'}</Typography>
      </Row>
      <Plot
        style={{ minHeight: 0 }}
        draw={draw}
        label={`How unlike left and right are below ${LOW_END_BANDS[LOW_END_BANDS.length - 1][1]} Hz over the passage: above before, below after; denser means less alike`}
      />
    </ReadingPanel>
  )
}

/** What is measured while the chain rests; the last one until the next is there. */
function useLowEnd(node: string, treatment: string | null, hz: number | null): LowEndPair | null {
  const settled = useSettledSession()
  const args = treatment === null || hz === null ? null : { node, treatment, hz }
  const depends = [chainOf(settled, node), settled.passage]
  return useAsked('lowEnd', args, { subject: `${node} ${treatment}`, depends }).answer
}

function metersText({ before, after }: LowEndPair, hz: number): string {
  const meters = METERS.map(
    ([key, name]) => `${name} ${level(before.below[key])} → ${level(after.below[key])}`,
  )
  const loss = `the mono sum loses ${before.below.monoLoss.toFixed(1)} → ${after.below.monoLoss.toFixed(1)} dB`
  return `Below ${Number(hz.toPrecision(3))} Hz: ${meters.join(', ')} dB; ${loss}`
}

function level(db: number): string {
  return db < -90 ? '−∞' : signed(db, 1)
}
