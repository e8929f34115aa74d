import Button from '@mui/material/Button'
import { wholeRingCut } from '@sober-prism/core/findings'
import { chainOf } from '@sober-prism/core/session'
import { Row } from '../controls/layout'
import { formatHz } from '../format'
import { openSession } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { cleanActions, type HuntedCut } from './clean-slice'

/** The cut that was made by ear, and beside it what was measured there, to be used in its place. */
export function HuntedCutRow({ made: { node, band, hz, ring } }: { made: HuntedCut }) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const treatment = useAppSelector((root) =>
    chainOf(openSession(root), node)?.treatments.find(
      (t) => t.kind === 'equaliser' && t.params.bands.some((b) => b.id === band),
    ),
  )
  if (!treatment) return 'The cut was removed.'
  if (!ring) return `Cut at ${formatHz(hz)}, as you heard it. No resonance was measured there.`
  const measured = wholeRingCut(ring)
  const take = () => {
    const { hz: at, q, db } = measured
    edit([
      {
        kind: 'set-band',
        node,
        treatment: treatment.id,
        band,
        change: { band: { hz: at, q, db } },
      },
    ])
    dispatch(cleanActions.cutMade(null))
  }
  return (
    <Row sx={{ gap: '8px' }}>
      <span>
        Cut at {formatHz(hz)}, as you heard it. Measured there: a resonance at {formatHz(ring.hz)},
        Q {ring.q.toFixed(0)}, {ring.db.toFixed(1)} dB high.
      </span>
      <Button onClick={take}>
        Use {measured.db.toFixed(1).replace('-', '−')} dB at {formatHz(measured.hz)}, Q{' '}
        {measured.q.toFixed(0)}
      </Button>
    </Row>
  )
}
