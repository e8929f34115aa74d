import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import Button from '@mui/material/Button'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { type Chain, chainOf } from '@sober-prism/core/session'
import {
  type KindName,
  MIX,
  newTreatment,
  STAGES,
  type StageName,
  TREATMENT_KINDS,
} from '@sober-prism/core/treatments'
import { useState } from 'react'
import { FigureField } from '../figure-field'
import { formatDb } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, nodeOf, shownTreatment, useSession } from '../store/selectors'
import { useEdit, useRoot, useSend } from '../store/store'
import { HearChain } from './hear-chain'
import { STAGE_NAMES } from './names'
import { TreatmentRow } from './treatment-row'

/** Whose chain it is, how it is listened to, and its treatments in the order in which sound passes them. */
export function ChainPanel() {
  const session = useSession()
  const node = useRoot(chosenNode)
  const chain = chainOf(session, node)
  const routed = nodeOf(session, node)
  const edit = useEdit()
  if (!chain) return null
  return (
    <section className="chain-panel" aria-label={`Chain of ${nodeName(session, node)}`}>
      <h2 title={nodeName(session, node)}>
        {routed && <span className="badge">{routed.letter}</span>}
        <span className="clip">{nodeName(session, node)}</span>
      </h2>
      {node !== MIX && routed && (
        <div className="toggles">
          {(['mute', 'solo', 'lift'] as const).map((key) => (
            <button
              key={key}
              type="button"
              aria-pressed={routed[key]}
              title={key === 'lift' ? 'Raise by 6 dB while listening' : undefined}
              onClick={() =>
                edit([{ kind: 'set-node', node, change: { [key]: !routed[key] } }], {
                  listening: key !== 'mute',
                })
              }
            >
              {key[0].toUpperCase() + key.slice(1)}
            </button>
          ))}
        </div>
      )}
      <Treatments node={node} chain={chain} />
      <Output node={node} chain={chain} />
      <HearChain node={node} chain={chain} />
    </section>
  )
}

/** The chain as a list: reordered by drag or with the keyboard, also from one stage to another. */
function Treatments({ node, chain }: { node: string; chain: Chain }) {
  const edit = useEdit()
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const { treatments } = chain
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const from = treatments.findIndex((t) => t.id === active.id)
    const to = treatments.findIndex((t) => t.id === over?.id)
    if (from < 0 || to < 0 || from === to) return
    const target = treatments[to]
    // Moved down, it comes to stand behind the one it is dropped on.
    const next = from < to ? treatments[to + 1] : target
    const before = next?.stage === target.stage ? next.id : null
    edit([
      { kind: 'move-treatment', node, treatment: String(active.id), stage: target.stage, before },
    ])
  }
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext items={treatments.map((t) => t.id)} strategy={verticalListSortingStrategy}>
        <ul className="stages">
          {STAGES.map((stage) => (
            <Stage key={stage} node={node} chain={chain} stage={stage} />
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  )
}

function Stage({ node, chain, stage }: { node: string; chain: Chain; stage: StageName }) {
  const send = useSend()
  const chosenStage = useRoot((root) => root.interface.stage)
  const view = useRoot((root) => root.interface)
  const shown = shownTreatment(chain.treatments, view)
  const inStage = chain.treatments.filter((t) => t.stage === stage)
  return (
    <li data-chosen={stage === chosenStage}>
      <div className="stage-head">
        <button
          type="button"
          aria-current={stage === chosenStage}
          onClick={() => send(interfaceActions.stageChosen(stage))}
        >
          {STAGE_NAMES[stage]}
        </button>
        <AddTreatment node={node} stage={stage} />
      </div>
      {inStage.length > 0 && (
        <ol className="treatments">
          {inStage.map((treatment) => (
            <TreatmentRow
              key={treatment.id}
              node={node}
              treatment={treatment}
              chosen={shown?.id === treatment.id && stage === chosenStage}
              place={chain.treatments.indexOf(treatment)}
              count={chain.treatments.length}
            />
          ))}
        </ol>
      )}
    </li>
  )
}

const KIND_NAMES = Object.keys(TREATMENT_KINDS) as KindName[]

/** A menu of all kinds of treatment. */
function AddTreatment({ node, stage }: { node: string; stage: StageName }) {
  const edit = useEdit()
  const send = useSend()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const add = (kind: KindName) => {
    setAnchor(null)
    const treatment = newTreatment(kind, crypto.randomUUID(), stage)
    edit([{ kind: 'add-treatment', node, treatment, before: null }])
    send(interfaceActions.treatmentChosen({ treatmentId: treatment.id, stage }))
  }
  return (
    <>
      <Button
        size="small"
        className="add-treatment"
        aria-label={`Add a treatment to ${STAGE_NAMES[stage]}`}
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        + Add
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {KIND_NAMES.map((kind) => (
          <MenuItem key={kind} onClick={() => add(kind)}>
            {TREATMENT_KINDS[kind].name}
          </MenuItem>
        ))}
      </Menu>
    </>
  )
}

/** The end of the chain: trim and polarity. */
function Output({ node, chain }: { node: string; chain: Chain }) {
  const edit = useEdit()
  const { trimDb, polarity } = chain.output
  return (
    <div className="output">
      <FigureField
        label="Output"
        unit="dB"
        value={trimDb}
        limits={[-48, 24]}
        format={(db) => formatDb(db)}
        step={(db, direction, fine) =>
          Math.round((db + direction * (fine ? 0.1 : 0.5)) * 100) / 100
        }
        onChange={(value, gesture) =>
          edit([{ kind: 'set-chain-output', node, change: { trimDb: value } }], { gesture })
        }
      />
      <label className="switch" title="Turn the polarity around">
        <input
          type="checkbox"
          aria-label="Polarity inverted"
          checked={polarity === 'inverted'}
          onChange={(e) =>
            edit([
              {
                kind: 'set-chain-output',
                node,
                change: { polarity: e.target.checked ? 'inverted' : 'normal' },
              },
            ])
          }
        />
        ⌀
      </label>
    </div>
  )
}
