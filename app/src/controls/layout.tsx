import { styled } from '@mui/material/styles'

/** Things beside each other, on several lines where there is no room. */
export const Row = styled('div')({
  display: 'flex',
  flexWrap: 'wrap',
  alignItems: 'center',
  gap: '6px 8px',
})

/** Things below each other. */
export const Column = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0, 1fr)',
  gap: 6,
  minWidth: 0,
})

/** Things below each other, set off from the edges of the evidence. */
export const Pane = styled(Column)({ gap: 8, padding: '10px 14px' })

/**
 * One of several things in the evidence, a hairline under each. The one that is open (`data-open`) stands on a deeper
 * ground; what is only pencilled in (`data-pencil`) has a dotted edge.
 */
export const Entry = styled('article')(({ theme }) => ({
  display: 'grid',
  gridTemplateColumns: 'minmax(0, 1fr)',
  gap: 6,
  padding: '10px 14px 12px',
  borderBottom: `1px solid ${theme.palette.divider}`,
  '&[data-open="true"]': {
    backgroundColor: theme.palette.action.selected,
    boxShadow: `inset 3px 0 0 ${theme.palette.primary.main}`,
  },
  '&[data-pencil="true"]': { borderLeft: '3px dotted var(--lineStrong)' },
}))

/** The title of an entry, and its figure at the right. */
export const EntryHead = styled('header')({
  display: 'flex',
  alignItems: 'baseline',
  justifyContent: 'space-between',
  gap: 8,
})

/** A list without signs before its items. */
export const PlainList = styled('ul')({
  display: 'grid',
  gap: 6,
  margin: 0,
  padding: 0,
  listStyle: 'none',
})

/** What is said of a picture, as wide as the tracks are, and the picture beside it on the one ruler. */
export const Beside = styled('section')({
  display: 'grid',
  gridTemplate: 'minmax(0, 1fr) / var(--side) minmax(0, 1fr)',
  minHeight: 0,
  overflow: 'hidden',
  scrollbarWidth: 'thin',
  scrollbarGutter: 'stable',
})

/** Values that belong together, beside each other. */
export const Fields = styled('fieldset')({
  display: 'flex',
  flexWrap: 'wrap',
  alignItems: 'center',
  gap: '4px 10px',
  minWidth: 0,
  margin: 0,
  padding: 0,
  border: 0,
})
