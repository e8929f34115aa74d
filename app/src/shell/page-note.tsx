import Link from '@mui/material/Link'
import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import { Link as RouteLink } from 'react-router'
import { Column } from '../controls/layout'

interface PageNoteProps {
  readonly text: string
  /** Something that is to be noticed, not only a state. */
  readonly alert?: boolean
  readonly children?: ReactNode
  /** Leaves out the way back. */
  readonly busy?: boolean
}

/** A page that has one thing to say, and ways on from there. */
export function PageNote({ text, alert = false, busy = false, children }: PageNoteProps) {
  return (
    <Column
      as="main"
      sx={{
        gap: '10px',
        placeContent: 'center',
        justifyItems: 'center',
        height: '100%',
        p: '20px',
      }}
    >
      <h1 className="visually-hidden">Sober Prism</h1>
      <Typography role={alert ? 'alert' : 'status'} sx={{ maxWidth: '62ch' }}>
        {text}
      </Typography>
      {children}
      {!busy && (
        <Link component={RouteLink} to="/">
          All sessions
        </Link>
      )}
    </Column>
  )
}
