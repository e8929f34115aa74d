import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import Typography from '@mui/material/Typography'
import { askToKeepData, type DataKeeping, dataKeeping } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { formatBytes } from '../format'

/** How much the sessions take and how much is free, and whether the browser may remove them by itself. */
export function DataNote() {
  const [keeping, setKeeping] = useState<DataKeeping | null>(null)
  const look = () => void dataKeeping().then(setKeeping)
  useEffect(look, [])
  if (!keeping) return null
  const { persistent, usedBytes, mostBytes } = keeping
  const share = mostBytes > 0 ? usedBytes / mostBytes : 0
  return (
    <div>
      <Typography color="textSecondary">
        {formatBytes(usedBytes)} used, {formatBytes(Math.max(0, mostBytes - usedBytes))} free.{' '}
        {persistent ? (
          'Kept until you delete it.'
        ) : (
          <>
            The browser may delete it when the disk is full.{' '}
            <Button variant="text" onClick={() => void askToKeepData().then(look)}>
              Request permanent storage
            </Button>
          </>
        )}
      </Typography>
      <LinearProgress
        variant="determinate"
        value={100 * share}
        aria-label="Storage in use"
        sx={{ mt: 0.5, maxWidth: 280 }}
      />
    </div>
  )
}
