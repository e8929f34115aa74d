import Slider from '@mui/material/Slider'
import TableCell from '@mui/material/TableCell'
import Typography from '@mui/material/Typography'
import { type Group, groupsAbove, type Routed } from '@sober-prism/core/session'
import { MIX } from '@sober-prism/core/treatments'
import { Choice } from '../controls/choice'
import { FigureField } from '../controls/figure-field'
import { TrimField } from '../controls/trim-field'
import { formatDb, panText } from '../format'
import { openSession } from '../store/selectors'
import { useAppSelector, useEdit } from '../store/store'

interface NodeProps {
  readonly node: Routed
}

/** Where a track's or group's sound goes: the mix, or a group that is not in it. */
export function OutputCell({ node }: NodeProps) {
  const edit = useEdit()
  const all = useAppSelector((root) => openSession(root).groups)
  const groups = all.filter((g) => !flowsInto(all, g.id, node.id))
  return (
    <TableCell>
      <Choice
        label={`${node.name} routed to`}
        value={node.output}
        disabled={all.length === 0}
        options={[[MIX, 'Mix'], ...groups.map((g) => [g.id, `${g.letter} ${g.name}`] as const)]}
        onChange={(output) => edit([{ kind: 'set-output', node: node.id, output }])}
      />
    </TableCell>
  )
}

/** Whether a group is a node itself or flows into it. */
function flowsInto(groups: Group[], group: string, node: string): boolean {
  return group === node || groupsAbove({ groups, tracks: [] }, group).some((g) => g.id === node)
}

/** Gain ahead of the chain, to be typed. */
export function TrimCell({ node }: NodeProps) {
  return (
    <TableCell>
      <TrimField
        node={node.id}
        label={`Trim of ${node.name}`}
        showLabel={false}
        trimDb={node.trimDb}
      />
    </TableCell>
  )
}

/** Level at the fader, to be typed, and pan. */
export function LevelCells({ node }: NodeProps) {
  const edit = useEdit()
  const set = (change: { faderDb: number } | { pan: number }, gesture?: string) =>
    edit([{ kind: 'set-node', node: node.id, change }], { gesture })
  return (
    <>
      <TableCell>
        <FigureField
          label={`Level of ${node.name}`}
          showLabel={false}
          value={node.faderDb}
          limits={[-120, 12]}
          format={(db) => formatDb(db)}
          step={(db, direction, fine) =>
            Math.round((db + direction * (fine ? 0.1 : 0.5)) * 10) / 10
          }
          onChange={(faderDb, gesture) => set({ faderDb }, gesture)}
        />
      </TableCell>
      <TableCell sx={{ whiteSpace: 'nowrap' }}>
        <Slider
          aria-label={`Pan of ${node.name}`}
          getAriaValueText={panText}
          min={-1}
          max={1}
          step={0.05}
          value={node.pan}
          sx={{ width: 34, mr: '5px', verticalAlign: 'middle' }}
          onDoubleClick={() => set({ pan: 0 })}
          onChange={(_, pan) => set({ pan: pan as number }, `pan ${node.id}`)}
        />
        <Typography variant="figure">{panText(node.pan)}</Typography>
      </TableCell>
    </>
  )
}
