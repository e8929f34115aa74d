import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  type UniqueIdentifier,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import RemoveIcon from '@mui/icons-material/Close'
import DragIcon from '@mui/icons-material/DragHandle'
import Checkbox from '@mui/material/Checkbox'
import IconButton from '@mui/material/IconButton'
import OutlinedInput from '@mui/material/OutlinedInput'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { type EditOf, ROLES, type Role, type Track } from '@sober-prism/core/session'
import { memo } from 'react'
import { Choice } from '../controls/choice'
import { IconAction } from '../controls/icon-action'
import { Row } from '../controls/layout'
import { Term } from '../controls/term'
import { formatTime, signed } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { LevelCells, OutputCell, TrimCell } from './node-cells'

/** All tracks with what can be set of each; rows are reordered by drag or with the keyboard. */
export function TrackTable() {
  const session = useSession()
  const { tracks: measured } = useAnalysis('tracks')
  const edit = useEdit()
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    const to = session.tracks.findIndex((t) => t.id === over.id)
    edit([{ kind: 'order-track', track: String(active.id), to }])
  }
  const nameOf = (id: UniqueIdentifier) => session.tracks.find((t) => t.id === id)?.name ?? ''
  const placeOf = (id: UniqueIdentifier) =>
    `place ${session.tracks.findIndex((t) => t.id === id) + 1} of ${session.tracks.length}`
  const announcements: Announcements = {
    onDragStart: ({ active }) => `${nameOf(active.id)} taken up, ${placeOf(active.id)}.`,
    onDragOver: ({ active, over }) =>
      over ? `${nameOf(active.id)} at ${placeOf(over.id)}.` : undefined,
    onDragEnd: ({ active, over }) =>
      `${nameOf(active.id)} put down at ${placeOf((over ?? active).id)}.`,
    onDragCancel: ({ active }) => `${nameOf(active.id)} is back at ${placeOf(active.id)}.`,
  }
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={onDragEnd}
      accessibility={{ announcements }}
    >
      <Table aria-label="Tracks">
        <TableHead>
          <TableRow>
            <TableCell>Letter</TableCell>
            <TableCell>Name</TableCell>
            <TableCell>Role</TableCell>
            <TableCell>
              <Term word="lead">Lead</Term>
            </TableCell>
            <TableCell sx={NOT_NARROW}>Length</TableCell>
            <TableCell align="right">LUFS</TableCell>
            <TableCell>
              <Term word="Trim">Trim, dB</Term>
            </TableCell>
            <TableCell>Routed to</TableCell>
            <TableCell>Fader, dB</TableCell>
            <TableCell>Pan</TableCell>
            <TableCell>
              <span className="visually-hidden">Remove</span>
            </TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          <SortableContext
            items={session.tracks.map((t) => t.id)}
            strategy={verticalListSortingStrategy}
          >
            {session.tracks.map((track) => (
              <TrackRow
                key={track.id}
                track={track}
                lead={session.leadIds.includes(track.id)}
                rateHz={session.sampleRateHz}
                lufs={measured.get(track.id)?.lufs ?? null}
              />
            ))}
          </SortableContext>
        </TableBody>
      </Table>
    </DndContext>
  )
}

interface TrackRowProps {
  readonly track: Track
  readonly lead: boolean
  readonly rateHz: number
  readonly lufs: number | null
}

/** Left out where a window is narrow. */
const NOT_NARROW = { '@media (max-width: 1080px)': { display: 'none' } }

/** Where a row stands changes with every drag and every arrival; what is in it mostly not. */
function TrackRow({ track, lead, rateHz, lufs }: TrackRowProps) {
  const {
    attributes,
    listeners,
    setNodeRef,
    setActivatorNodeRef,
    transform,
    transition,
    isDragging,
  } = useSortable({ id: track.id })
  return (
    <TableRow
      ref={setNodeRef}
      data-dragging={isDragging}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <TableCell>
        <Row as="span" sx={{ gap: '2px', flexWrap: 'nowrap' }}>
          <IconButton
            ref={setActivatorNodeRef}
            {...attributes}
            {...listeners}
            sx={{ cursor: 'grab', touchAction: 'none', p: 0 }}
            aria-label={`Move ${track.name}: press Space, then arrow keys`}
          >
            <DragIcon />
          </IconButton>
          <LetterField id={track.id} name={track.name} letter={track.letter} />
        </Row>
      </TableCell>
      <TrackCells track={track} lead={lead} rateHz={rateHz} lufs={lufs} />
    </TableRow>
  )
}

interface LetterFieldProps {
  readonly id: string
  readonly name: string
  readonly letter: string
}

const LetterField = memo(({ id, name, letter }: LetterFieldProps) => {
  const edit = useEdit()
  return (
    <OutlinedInput
      value={letter}
      inputProps={{
        'aria-label': `Letter of ${name}`,
        maxLength: 3,
        style: { width: '2.5ch', fontFamily: '"Source Code Pro", monospace' },
      }}
      onFocus={(e) => e.target.select()}
      onChange={(e) => {
        const typed = e.target.value.trim()
        if (typed === '') return
        edit([{ kind: 'set-node', node: id, change: { letter: typed } }], {
          gesture: `letter ${id}`,
        })
      }}
    />
  )
})

const TrackCells = memo(({ track, lead, rateHz, lufs }: TrackRowProps) => {
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const change = (values: EditOf<'set-node'>['change'], gesture?: string) =>
    edit([{ kind: 'set-node', node: track.id, change: values }], { gesture })
  return (
    <>
      <TableCell sx={{ width: '30%' }}>
        <OutlinedInput
          fullWidth
          title={track.name}
          value={track.name}
          inputProps={{
            'aria-label': `Name of track ${track.letter}`,
            maxLength: 200,
            style: { textOverflow: 'ellipsis', minWidth: 80 },
          }}
          onChange={(e) => change({ name: e.target.value }, `name ${track.id}`)}
        />
      </TableCell>
      <TableCell>
        <Choice
          label={`Role of ${track.name}`}
          value={track.role}
          options={ROLES.map((role) => [role, role] as const)}
          onChange={(role: Role) => change({ role })}
        />
      </TableCell>
      <TableCell align="center">
        <Checkbox
          checked={lead}
          slotProps={{ input: { 'aria-label': `${track.name} leads` } }}
          onChange={(e) => edit([{ kind: 'set-lead', track: track.id, lead: e.target.checked }])}
        />
      </TableCell>
      <TableCell sx={NOT_NARROW} title={startText(track, rateHz)}>
        <Typography variant="figure">{formatTime(track.audio.frames / rateHz)}</Typography>
      </TableCell>
      <TableCell align="right" title="Gated loudness after trim and chain, before the fader">
        <Typography variant="figure">{lufs === null ? '–' : signed(lufs)}</Typography>
      </TableCell>
      <TrimCell node={track} />
      <OutputCell node={track} />
      <LevelCells node={track} />
      <TableCell>
        <IconAction
          label={`Remove ${track.name}`}
          icon={<RemoveIcon />}
          onClick={() => {
            edit([{ kind: 'remove-node', node: track.id }])
            dispatch(interfaceActions.noticeShown(`${track.name} removed.`, 'info', 'edit'))
          }}
        />
      </TableCell>
    </>
  )
})

function startText(track: Track, rateHz: number): string {
  return track.offsetFrames === 0
    ? 'Starts with the session'
    : `Starts at ${signed(track.offsetFrames / rateHz, 3)} s`
}
