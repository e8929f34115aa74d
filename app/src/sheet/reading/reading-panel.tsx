import { styled } from '@mui/material/styles'

/** What is read below the sheet: a third of it, so that neither is too low to read. */
export const ReadingPanel = styled('section')(({ theme }) => ({
  display: 'grid',
  gridTemplateRows: 'auto minmax(0, 1fr)',
  height: 190,
  minWidth: 0,
  borderTop: `1px solid ${theme.palette.divider}`,
}))
