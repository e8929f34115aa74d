import Typography from '@mui/material/Typography'
import type { Edit } from '@sober-prism/core/session'
import type { SessionFinding } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { formatShare } from '../format'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { nodeName, useRouting } from '../store/selectors'

/** Which way the share of each lead goes by edits that are proposed, before any is made. */
export function LeadHeard({ edits }: { edits: readonly Edit[] }) {
  const desk = useDesk()
  const session = useRouting()
  const { fresh } = useAnalysis('fresh')
  const [foreseen, setForeseen] = useState<
    readonly {
      readonly lead: string
      readonly predicted: NonNullable<SessionFinding['predicted']>
    }[]
  >([])
  const leads = session.leadIds.join()
  const asked = JSON.stringify(edits)
  useEffect(() => {
    setForeseen([])
    if (!fresh || leads === '') return
    let stale = false
    const moves = JSON.parse(asked) as Edit[]
    const ask = async () => {
      const all = []
      for (const lead of leads.split(',')) {
        const predicted = await desk.analyser.foreseeHeard(lead, moves)
        if (predicted) all.push({ lead, predicted })
      }
      if (!stale) setForeseen(all)
    }
    // A figure beside a proposal: where it cannot be had the proposal stands without it.
    ask().catch(() => {})
    return () => {
      stale = true
    }
  }, [desk, asked, leads, fresh])
  if (foreseen.length === 0) return null
  return (
    <Typography variant="body2" aria-live="polite">
      {foreseen
        .map(
          ({ lead, predicted: { before, after } }) =>
            `${nodeName(session, lead)} heard ${formatShare(before, 1)} → ${formatShare(after, 1)}`,
        )
        .join(', ')}{' '}
      (predicted).
    </Typography>
  )
}
