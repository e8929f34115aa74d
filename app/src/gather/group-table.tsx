import RemoveIcon from '@mui/icons-material/Close'
import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import type { Group } from '@sober-prism/core/session'
import { Badge } from '../controls/badge'
import { IconAction } from '../controls/icon-action'
import { Row } from '../controls/layout'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { LevelCells, OutputCell, TrimCell } from './node-cells'

/** The groups that tracks flow into, with what can be set of each, and a way to a new one. */
export function GroupTable() {
  const session = useSession()
  const edit = useEdit()
  const add = () => {
    const name = `Group ${session.groups.length + 1}`
    edit([{ kind: 'add-group', id: crypto.randomUUID(), name, members: [] }])
  }
  return (
    <section aria-labelledby="groups-title">
      <Row as="header" sx={{ justifyContent: 'space-between' }}>
        <Typography variant="h2" id="groups-title">
          Groups
        </Typography>
        <Button onClick={add} data-command="add-group">
          Add group
        </Button>
      </Row>
      {session.groups.length === 0 ? (
        <Typography color="textSecondary">
          A group has its own fader and chain. Route tracks or groups to it.
        </Typography>
      ) : (
        <Table aria-label="Groups">
          <TableHead>
            <TableRow>
              <TableCell>Letter</TableCell>
              <TableCell>Name</TableCell>
              <TableCell>Tracks</TableCell>
              <TableCell>Trim, dB</TableCell>
              <TableCell>Routed to</TableCell>
              <TableCell>Fader, dB</TableCell>
              <TableCell>Pan</TableCell>
              <TableCell>
                <span className="visually-hidden">Remove</span>
              </TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {session.groups.map((group) => (
              <GroupRow key={group.id} group={group} />
            ))}
          </TableBody>
        </Table>
      )}
    </section>
  )
}

function GroupRow({ group }: { group: Group }) {
  const session = useSession()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const members = [...session.tracks, ...session.groups].filter((n) => n.output === group.id)
  const remove = () => {
    edit([{ kind: 'remove-node', node: group.id }])
    const left = members.length > 0 ? ' Its inputs now feed its former destination.' : ''
    dispatch(interfaceActions.noticeShown(`${group.name} removed.${left}`, 'info', 'edit'))
  }
  return (
    <TableRow>
      <TableCell>
        <Badge letter={group.letter} group />
      </TableCell>
      <TableCell>
        <OutlinedInput
          title={group.name}
          value={group.name}
          inputProps={{ 'aria-label': `Name of group ${group.letter}`, maxLength: 200 }}
          onChange={(e) =>
            edit([{ kind: 'set-node', node: group.id, change: { name: e.target.value } }], {
              gesture: `name ${group.id}`,
            })
          }
        />
      </TableCell>
      <TableCell title={members.map((m) => m.name).join(', ')}>
        {members.length === 0 ? 'none' : members.map((m) => m.letter).join(' ')}
      </TableCell>
      <TrimCell node={group} />
      <OutputCell node={group} />
      <LevelCells node={group} />
      <TableCell>
        <IconAction label={`Remove ${group.name}`} icon={<RemoveIcon />} onClick={remove} />
      </TableCell>
    </TableRow>
  )
}
