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
import { type EditOf, ROLES, type Role, type Track } from '@sober-prism/core/session'
import { formatTime, signed } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useEdit, useSend } from '../store/store'
import { FaderCells, ListeningCell, OutputCell } from './node-cells'

/** All tracks with what can be set of each; rows are reordered by drag or with the keyboard. */
export function TrackTable() {
  const session = useSession()
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
      <table className="track-table" aria-label="Tracks">
        <thead>
          <tr className="track-row head">
            <th scope="col" aria-label="Order and letter" />
            <th scope="col">Name</th>
            <th scope="col">Role</th>
            <th scope="col">Length</th>
            <th scope="col">Goes to</th>
            <th scope="col">Fader</th>
            <th scope="col">dB</th>
            <th scope="col">Pan</th>
            <th scope="col">Listening</th>
            <th scope="col" aria-label="Remove" />
          </tr>
        </thead>
        <tbody>
          <SortableContext
            items={session.tracks.map((t) => t.id)}
            strategy={verticalListSortingStrategy}
          >
            {session.tracks.map((track) => (
              <TrackRow key={track.id} track={track} rateHz={session.sampleRateHz} />
            ))}
          </SortableContext>
        </tbody>
      </table>
    </DndContext>
  )
}

function TrackRow({ track, rateHz }: { track: Track; rateHz: number }) {
  const send = useSend()
  const edit = useEdit()
  const {
    attributes,
    listeners,
    setNodeRef,
    setActivatorNodeRef,
    transform,
    transition,
    isDragging,
  } = useSortable({ id: track.id })
  const change = (values: EditOf<'set-node'>['change'], gesture?: string) =>
    edit([{ kind: 'set-node', node: track.id, change: values }], { gesture })
  return (
    <tr
      ref={setNodeRef}
      className="track-row"
      data-dragging={isDragging}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <td className="grip-cell">
        <button
          type="button"
          ref={setActivatorNodeRef}
          className="grip"
          {...attributes}
          {...listeners}
          aria-label={`Move ${track.name}: press Space, then arrow keys`}
        >
          <svg viewBox="0 0 12 16" aria-hidden="true">
            <path d="M1 4h10M1 8h10M1 12h10" />
          </svg>
        </button>
        <input
          className="letter-input"
          type="text"
          aria-label={`Letter of ${track.name}`}
          maxLength={3}
          value={track.letter}
          onFocus={(e) => e.target.select()}
          onChange={(e) => {
            const letter = e.target.value.trim()
            if (letter !== '') change({ letter }, `letter ${track.id}`)
          }}
        />
      </td>
      <td>
        <input
          className="name-input"
          type="text"
          aria-label={`Name of track ${track.letter}`}
          title={track.name}
          maxLength={200}
          value={track.name}
          onChange={(e) => change({ name: e.target.value }, `name ${track.id}`)}
        />
      </td>
      <td>
        <select
          aria-label={`Role of ${track.name}`}
          value={track.role}
          onChange={(e) => change({ role: e.target.value as Role })}
        >
          {ROLES.map((role) => (
            <option key={role} value={role}>
              {role}
            </option>
          ))}
        </select>
      </td>
      <td className="figure" title={startText(track, rateHz)}>
        {formatTime(track.audio.frames / rateHz)}
      </td>
      <OutputCell node={track} />
      <FaderCells node={track} />
      <ListeningCell node={track} />
      <td>
        <button
          type="button"
          className="plain"
          aria-label={`Remove ${track.name}`}
          onClick={() => {
            edit([{ kind: 'remove-node', node: track.id }])
            send(interfaceActions.noticeShown(`${track.name} removed.`, 'info', 'edit'))
          }}
        >
          Remove
        </button>
      </td>
    </tr>
  )
}

function startText(track: Track, rateHz: number): string {
  return track.offsetFrames === 0
    ? 'Starts with the session'
    : `Starts at ${signed(track.offsetFrames / rateHz, 3)} s`
}
