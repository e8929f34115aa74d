import Button from '@mui/material/Button'
import { askToKeepData, type DataKeeping, dataKeeping } from '@sober-prism/engine'
import { useEffect, useState } from 'react'

/** How much the sessions take, and whether the browser may remove them by itself. */
export function DataNote() {
  const [keeping, setKeeping] = useState<DataKeeping | null>(null)
  const look = () => void dataKeeping().then(setKeeping)
  useEffect(look, [])
  if (!keeping) return null
  const { persistent, usedBytes, mostBytes } = keeping
  return (
    <p className="hint">
      {gigabytes(usedBytes)} of {gigabytes(mostBytes)} that this browser gives are in use.{' '}
      {persistent ? (
        'They stay until you remove them.'
      ) : (
        <>
          The browser may remove them when the disk runs full.{' '}
          <Button size="small" onClick={() => void askToKeepData().then(look)}>
            Ask it to keep them
          </Button>
        </>
      )}
    </p>
  )
}

function gigabytes(bytes: number): string {
  return `${(bytes / 1e9).toFixed(bytes < 1e9 ? 2 : 1)} GB`
}
