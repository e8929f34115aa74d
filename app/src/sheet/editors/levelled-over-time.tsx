import Typography from '@mui/material/Typography'
import type { Treatment } from '@sober-prism/core/treatments'
import { errorSentence, isCancel } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { signed } from '../../format'
import { useAnalysis, useDesk, useSignal } from '../../shell/desk-context'

/** So long nothing is changed before it is computed, in ms. */
const SETTLE_MS = 300

interface LevelledProps {
  readonly node: string
  readonly treatment: Extract<Treatment, { kind: 'leveller' }>
}

/** Loudness before and behind a leveller; what it takes over time is drawn in the overview meanwhile. */
export function LevelledOverTime({ node, treatment }: LevelledProps) {
  const desk = useDesk()
  const found = useSignal(desk.levelledNow)
  // Measured anew whenever the analysis is: something before the leveller may have changed.
  const { fresh } = useAnalysis('fresh')
  const [trouble, setTrouble] = useState<string | null>(null)
  const { id, params } = treatment
  // biome-ignore lint/correctness/useExhaustiveDependencies: the values are looked up by their treatment.
  useEffect(() => {
    if (!fresh) return
    const controller = new AbortController()
    const { signal } = controller
    const timer = setTimeout(() => {
      setTrouble(null)
      desk.ask
        .levelled(node, id, { signal })
        .then((reading) => {
          if (!signal.aborted) desk.levelledNow.set(reading)
        })
        .catch((error) => {
          if (!isCancel(error) && !signal.aborted) setTrouble(errorSentence(error))
        })
    }, SETTLE_MS)
    return () => {
      clearTimeout(timer)
      controller.abort(new DOMException('Not shown any more.', 'AbortError'))
    }
  }, [desk, node, id, params, fresh])
  useEffect(() => () => desk.levelledNow.set(null), [desk])
  const { beforeLufs = null, afterLufs = null } = found?.levelled ?? {}
  return (
    <Typography variant="caption" color={trouble ? 'warning' : 'textSecondary'} role="status">
      {trouble ??
        (beforeLufs === null || afterLufs === null
          ? 'Loudness in and out is measured when playback stops'
          : `In ${signed(beforeLufs)}, out ${signed(afterLufs)} LUFS; reduction shown in overview`)}
    </Typography>
  )
}
