import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import { Column } from './layout'

/** Says what goes where nothing is yet, with the ways to it. */
export function EmptyPlace({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <Column
      sx={{
        gap: '12px',
        justifyItems: 'start',
        maxWidth: '58ch',
        p: '24px 26px',
        border: '1px dashed var(--lineStrong)',
        color: 'text.secondary',
      }}
    >
      <Typography>{text}</Typography>
      {children}
    </Column>
  )
}
