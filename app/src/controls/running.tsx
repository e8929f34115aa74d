import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import Typography from '@mui/material/Typography'
import { useEffect, useState } from 'react'
import { formatRemaining } from '../format'

interface RunningProps {
  readonly what: string
  /** 0 to 1. */
  readonly share: number
  readonly onCancel?: () => void
  readonly cancelText?: string
}

/** Under this share a guess of what remains would be worth nothing. */
const ENOUGH_SHARE = 0.1
const ENOUGH_MS = 1500

/** What remains of work that goes on as it began, in seconds; null while that cannot be told. */
export function remainingSeconds(share: number, elapsedMs: number): number | null {
  if (share < ENOUGH_SHARE || elapsedMs < ENOUGH_MS) return null
  return ((1 - share) / share) * (elapsedMs / 1000)
}

/** Work under way: what is being done, how far it is, roughly how long it will take, and a way to end it. */
export function Running({ what, share, onCancel, cancelText = 'Cancel' }: RunningProps) {
  const [begun, setBegun] = useState(() => performance.now())
  // biome-ignore lint/correctness/useExhaustiveDependencies: other work begins anew.
  useEffect(() => setBegun(performance.now()), [what])
  const left = remainingSeconds(share, performance.now() - begun)
  return (
    <Box
      component="span"
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, auto) minmax(40px, 90px) auto',
        alignItems: 'center',
        gap: '8px',
        minWidth: 0,
      }}
    >
      <Typography component="span" variant="body2" noWrap title={what}>
        {what}
        {left === null ? '' : `, ${formatRemaining(left)}`}
      </Typography>
      <LinearProgress variant="determinate" value={100 * Math.min(1, share)} aria-label={what} />
      {onCancel && (
        <Button variant="text" onClick={onCancel} aria-label={`${cancelText}: ${what}`}>
          {cancelText}
        </Button>
      )}
    </Box>
  )
}
