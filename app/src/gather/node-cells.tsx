import type { EditOf, Routed, Session } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { FigureField } from '../figure-field'
import { formatDb } from '../format'
import { useSession } from '../store/selectors'
import { useEdit } from '../store/store'

interface NodeProps {
  readonly node: Routed
}

function useNodeEdit({ node }: NodeProps) {
  const edit = useEdit()
  return (change: EditOf<'set-node'>['change'], gesture?: string, listening = false) =>
    edit([{ kind: 'set-node', node: node.id, change }], { gesture, listening })
}

/** Where a track's or group's sound goes: the mix, or a group that is not in it. */
export function OutputCell({ node }: NodeProps) {
  const session = useSession()
  const edit = useEdit()
  return (
    <td>
      <select
        aria-label={`${node.name} goes to`}
        value={node.output}
        disabled={session.groups.length === 0}
        onChange={(e) => edit([{ kind: 'set-output', node: node.id, output: e.target.value }])}
      >
        <option value={MIX}>Mix</option>
        {session.groups
          .filter((g) => !flowsInto(session, g.id, node.id))
          .map((g) => (
            <option key={g.id} value={g.id}>
              {g.letter} {g.name}
            </option>
          ))}
      </select>
    </td>
  )
}

/** Whether a group is a node itself or flows into it. */
function flowsInto(session: Session, group: string, node: string): boolean {
  let at: string | undefined = group
  while (at !== undefined && at !== MIX) {
    if (at === node) return true
    at = session.groups.find((g) => g.id === at)?.output
  }
  return false
}

/** Fader, level and pan. */
export function FaderCells({ node }: NodeProps) {
  const change = useNodeEdit({ node })
  return (
    <>
      <td>
        <input
          type="range"
          className="fader"
          aria-label={`Fader of ${node.name}`}
          min={-40}
          max={12}
          step={0.5}
          value={Math.max(-40, node.faderDb)}
          onChange={(e) => change({ faderDb: Number(e.target.value) }, `fader ${node.id}`)}
        />
      </td>
      <td>
        <FigureField
          label={`Level of ${node.name}`}
          showLabel={false}
          value={node.faderDb}
          limits={[-120, 12]}
          format={(db) => formatDb(db)}
          step={(db, direction, fine) =>
            Math.round((db + direction * (fine ? 0.1 : 0.5)) * 10) / 10
          }
          onChange={(faderDb, gesture) => change({ faderDb }, gesture)}
        />
      </td>
      <td className="pan-cell">
        <input
          type="range"
          className="fader pan"
          aria-label={`Pan of ${node.name}`}
          aria-valuetext={panText(node.pan)}
          min={-1}
          max={1}
          step={0.05}
          value={node.pan}
          onDoubleClick={() => change({ pan: 0 })}
          onChange={(e) => change({ pan: Number(e.target.value) }, `pan ${node.id}`)}
        />
        <span className="figure">{panText(node.pan)}</span>
      </td>
    </>
  )
}

/** Mute, solo and lift; the last two are for listening only. */
export function ListeningCell({ node }: NodeProps) {
  const change = useNodeEdit({ node })
  return (
    <td className="toggles">
      {(['mute', 'solo', 'lift'] as const).map((key) => (
        <button
          key={key}
          type="button"
          aria-pressed={node[key]}
          aria-label={`${key} ${node.name}`}
          onClick={() => change({ [key]: !node[key] }, undefined, key !== 'mute')}
        >
          {key[0].toUpperCase() + key.slice(1)}
        </button>
      ))}
    </td>
  )
}

function panText(pan: number): string {
  const percent = Math.round(Math.abs(pan) * 100)
  return percent === 0 ? 'middle' : `${percent} ${pan < 0 ? 'L' : 'R'}`
}
