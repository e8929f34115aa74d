import Box from '@mui/material/Box'
import Tab from '@mui/material/Tab'
import Tabs from '@mui/material/Tabs'
import type { ReactNode } from 'react'
import { shallowEqual } from 'react-redux'
import { chosenNode } from '../../store/selectors'
import { useAppDispatch, useAppSelector } from '../../store/store'
import { AROUND } from '../heights'
import { onSheet } from '../on-sheet'
import { selectSheet, sheetActions } from '../sheet-slice'
import { readingName } from '../sheet-tools'
import { ChainReading } from './chain-reading'

/** As large as its place, and no larger for what is in it. */
const FILLED = {
  display: 'grid',
  gridTemplate: 'minmax(0, 1fr) / minmax(0, 1fr)',
  minHeight: 0,
  minWidth: 0,
} as const

/** A picture above the sheet, and what is read of the chain in the same place while it is asked for. */
export function PictureOrReading({ name, children }: { name: string; children: ReactNode }) {
  const node = useAppSelector(chosenNode)
  const { treatments, treatment } = useAppSelector((root) => onSheet(root, node), shallowEqual)
  const { reading, readingInFront } = useAppSelector(selectSheet)
  const isRead = reading.kind !== 'off'
  const isInFront = isRead && readingInFront
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplate: 'auto minmax(0, 1fr) / minmax(0, 1fr)',
        minHeight: 0,
        minWidth: 0,
      }}
    >
      <div>{isRead && <ReadingTabs beside={name} />}</div>
      {/* What stands behind keeps its size, and so what it has measured. */}
      <Box sx={{ ...FILLED, '& > *': { gridArea: '1 / 1' } }}>
        <Box sx={FILLED} style={isInFront ? { visibility: 'hidden' } : undefined}>
          {children}
        </Box>
        {isInFront && <ChainReading node={node} treatments={treatments} shown={treatment} />}
      </Box>
    </Box>
  )
}

/** Which of both stands in the place that they share. */
export function ReadingTabs({ beside }: { beside: string }) {
  const { reading, readingInFront } = useAppSelector(selectSheet)
  const dispatch = useAppDispatch()
  const sx = { minHeight: AROUND.tabs - 1 }
  return (
    <Tabs
      value={readingInFront}
      aria-label={`${beside} or graph`}
      sx={{ borderTop: 1, borderColor: 'divider', minHeight: AROUND.tabs, px: '6px' }}
      onChange={(_, to: boolean) => dispatch(sheetActions.readingTurned(to))}
    >
      <Tab value={false} label={beside} sx={sx} />
      <Tab value={true} label={readingName(reading.kind)} sx={sx} />
    </Tabs>
  )
}
