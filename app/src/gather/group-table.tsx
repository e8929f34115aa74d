import Button from '@mui/material/Button'
import type { Group } from '@sober-prism/core/session'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useEdit, useSend } from '../store/store'
import { FaderCells, ListeningCell, OutputCell } from './node-cells'

/** The groups that tracks flow into, with what can be set of each, and a way to a new one. */
export function GroupTable() {
  const session = useSession()
  const edit = useEdit()
  const add = () => {
    const name = `Group ${session.groups.length + 1}`
    edit([{ kind: 'add-group', id: crypto.randomUUID(), name, members: [] }])
  }
  return (
    <section className="groups" aria-labelledby="groups-title">
      <header>
        <h3 id="groups-title">Groups</h3>
        <Button size="small" onClick={add}>
          Add a group
        </Button>
      </header>
      {session.groups.length === 0 ? (
        <p className="hint">
          A group has a fader and a chain of its own for the tracks that go to it. Groups may go to
          groups.
        </p>
      ) : (
        <table className="track-table" aria-label="Groups">
          <thead>
            <tr className="track-row head">
              <th scope="col" aria-label="Letter" />
              <th scope="col">Name</th>
              <th scope="col">Tracks</th>
              <th scope="col">Goes to</th>
              <th scope="col">Fader</th>
              <th scope="col">dB</th>
              <th scope="col">Pan</th>
              <th scope="col">Listening</th>
              <th scope="col" aria-label="Remove" />
            </tr>
          </thead>
          <tbody>
            {session.groups.map((group) => (
              <GroupRow key={group.id} group={group} />
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}

function GroupRow({ group }: { group: Group }) {
  const session = useSession()
  const edit = useEdit()
  const send = useSend()
  const members = [...session.tracks, ...session.groups].filter((n) => n.output === group.id)
  const remove = () => {
    edit([{ kind: 'remove-node', node: group.id }])
    const left = members.length > 0 ? ' What went into it goes where it went.' : ''
    send(interfaceActions.noticeShown(`${group.name} removed.${left}`, 'info', 'edit'))
  }
  return (
    <tr className="track-row">
      <td>
        <span className="badge group">{group.letter}</span>
      </td>
      <td>
        <input
          className="name-input"
          type="text"
          aria-label={`Name of group ${group.letter}`}
          title={group.name}
          maxLength={200}
          value={group.name}
          onChange={(e) =>
            edit([{ kind: 'set-node', node: group.id, change: { name: e.target.value } }], {
              gesture: `name ${group.id}`,
            })
          }
        />
      </td>
      <td className="clip" title={members.map((m) => m.name).join(', ')}>
        {members.length === 0 ? 'none' : members.map((m) => m.letter).join(' ')}
      </td>
      <OutputCell node={group} />
      <FaderCells node={group} />
      <ListeningCell node={group} />
      <td>
        <button
          type="button"
          className="plain"
          aria-label={`Remove ${group.name}`}
          onClick={remove}
        >
          Remove
        </button>
      </td>
    </tr>
  )
}
