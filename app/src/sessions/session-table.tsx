import Button from '@mui/material/Button'
import Link from '@mui/material/Link'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import type { SessionEntry } from '@sober-prism/engine'
import { Link as RouteLink } from 'react-router'
import { formatBytes, formatTime } from '../format'

interface SessionTableProps {
  readonly sessions: readonly SessionEntry[]
  readonly busy: boolean
  readonly onSave: (entry: SessionEntry) => void
  readonly onDelete: (entry: SessionEntry) => void
}

/** Sessions with their length, size and when they were opened. */
export default function SessionTable({ sessions, busy, onSave, onDelete }: SessionTableProps) {
  return (
    <Table aria-label="Sessions">
      <TableHead>
        <TableRow>
          <TableCell>Name</TableCell>
          <TableCell align="right">Tracks</TableCell>
          <TableCell align="right">Length</TableCell>
          <TableCell align="right">Audio</TableCell>
          <TableCell>Last opened</TableCell>
          <TableCell>Actions</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {sessions.map((entry) => {
          const { id, name, tracks, seconds, bytes, updatedAt, openedAt } = entry
          const opened = openedAt ?? updatedAt
          return (
            <TableRow key={id}>
              <TableCell className="clip" sx={{ maxWidth: 280 }}>
                <Link component={RouteLink} to={`/session/${id}/survey`} title={name}>
                  {name}
                </Link>
              </TableCell>
              <TableCell align="right">{tracks}</TableCell>
              <TableCell align="right">
                <Typography variant="figure">{seconds ? formatTime(seconds) : '–'}</Typography>
              </TableCell>
              <TableCell align="right">
                <Typography variant="figure">{bytes > 0 ? formatBytes(bytes) : '–'}</Typography>
              </TableCell>
              <TableCell>
                <time dateTime={new Date(opened).toISOString()}>
                  {new Date(opened).toLocaleString()}
                </time>
              </TableCell>
              <TableCell align="right" sx={{ whiteSpace: 'nowrap' }}>
                <Button
                  variant="text"
                  aria-label={`Export ${name}`}
                  disabled={busy}
                  onClick={() => onSave(entry)}
                >
                  Export
                </Button>
                <Button
                  variant="text"
                  aria-label={`Delete ${name}`}
                  onClick={() => onDelete(entry)}
                >
                  Delete
                </Button>
              </TableCell>
            </TableRow>
          )
        })}
      </TableBody>
    </Table>
  )
}
