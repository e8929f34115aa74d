import Typography from '@mui/material/Typography'
import type { Treatment } from '@sober-prism/core/treatments'
import { useEffect } from 'react'
import { signed } from '../../format'
import { useAnalysis, useDesk, useSignal } from '../../shell/desk-context'
import { useAsked } from '../../shell/use-asked'

interface LevelledProps {
  readonly node: string
  readonly treatment: Extract<Treatment, { kind: 'leveller' }>
}

/** Loudness before and behind a leveller; what it takes over time is drawn in the overview meanwhile. */
export function LevelledOverTime({ node, treatment }: LevelledProps) {
  const desk = useDesk()
  // Measured anew whenever the analysis is: something before the leveller may have changed.
  const { fresh } = useAnalysis('fresh')
  const { id, params } = treatment
  const { answer, trouble } = useAsked('levelled', fresh ? { node, treatment: id } : null, {
    subject: `${node} ${id}`,
    depends: [params],
    tell: 'here',
  })
  useEffect(() => {
    if (answer) desk.levelledNow.set(answer)
  }, [desk, answer])
  useEffect(() => () => desk.levelledNow.set(null), [desk])
  const found = useSignal(desk.levelledNow)
  const { beforeLufs = null, afterLufs = null } = found ?? {}
  return (
    <Typography variant="caption" color={trouble ? 'warning' : 'textSecondary'} role="status">
      {trouble ??
        (beforeLufs === null || afterLufs === null
          ? 'Loudness in and out is measured when playback stops'
          : `In ${signed(beforeLufs)}, out ${signed(afterLufs)} LUFS; reduction shown in overview`)}
    </Typography>
  )
}
