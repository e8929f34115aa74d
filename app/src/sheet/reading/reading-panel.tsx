import { styled } from '@mui/material/styles'

/** How high it is below the sheet, in pixels. */
export const READING_HEIGHT = 190

/** What is read of a chain: its controls on a line, and the picture under them. */
export const ReadingPanel = styled('section')({
  display: 'grid',
  gridTemplateRows: 'auto minmax(0, 1fr)',
  minHeight: 0,
  minWidth: 0,
})
