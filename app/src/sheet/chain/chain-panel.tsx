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
import AddIcon from '@mui/icons-material/Add'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { type Chain, chainOf } from '@sober-prism/core/session'
import {
  type KindName,
  newTreatment,
  STAGES,
  type StageName,
  TREATMENT_KINDS,
  type Treatment,
} from '@sober-prism/core/treatments'
import { lazy, memo, Suspense, useState } from 'react'
import { Badge } from '../../controls/badge'
import { Choice } from '../../controls/choice'
import { FigureField } from '../../controls/figure-field'
import { Column, PlainList, Row } from '../../controls/layout'
import { TickBox } from '../../controls/tick-box'
import { TrimField } from '../../controls/trim-field'
import { meaningOf, type Word } from '../../controls/words'
import { formatDb, signed } from '../../format'
import { useDesk, useSignal } from '../../shell/desk-context'
import { interfaceActions } from '../../store/interface-slice'
import {
  chosenNode,
  nodeName,
  nodeOf,
  openSession,
  shownTreatment,
  useRouting,
} from '../../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../../store/store'
import { STAGE_NAMES } from '../names'
import styles from '../sheet.module.css'
import { selectSheet, sheetActions } from '../sheet-slice'
import { TreatmentRow } from './treatment-row'

/** Whose chain it is, and its treatments in the order in which sound passes them. */
export const ChainPanel = memo(function ChainPanel() {
  const session = useRouting()
  const node = useAppSelector(chosenNode)
  const output = useAppSelector((root) => chainOf(openSession(root), node)?.output)
  const trimDb = useAppSelector((root) => {
    const now = openSession(root)
    return (nodeOf(now, node) ?? now.mix).trimDb
  })
  const routed = nodeOf(session, node)
  if (!output) return null
  return (
    <Column
      as="section"
      sx={{
        display: 'flex',
        flexDirection: 'column',
        gap: '3px',
        p: '4px 8px 6px 10px',
        minHeight: 0,
      }}
      aria-label={`Chain of ${nodeName(session, node)}`}
    >
      <Row sx={{ minHeight: 26, flexWrap: 'nowrap' }}>
        {routed && <Badge letter={routed.letter} />}
        <Typography variant="h2" noWrap title={nodeName(session, node)}>
          {nodeName(session, node)}
        </Typography>
        <Box component="span" sx={{ flex: 1 }} />
        <Presets />
      </Row>
      <Row>
        <TrimField node={node} trimDb={trimDb} />
      </Row>
      <Treatments node={node} />
      <Output node={node} {...output} />
      <ReadBelow node={node} />
    </Column>
  )
})

/** A treatment's place in its chain, which does not change while its values do. */
type Placed = Pick<Treatment, 'id' | 'stage' | 'on'>

function useOrder(node: string): readonly Placed[] {
  return useAppSelector(
    (root) => chainOf(openSession(root), node)?.treatments ?? NO_TREATMENTS,
    isSameOrder,
  )
}

const NO_TREATMENTS: readonly Treatment[] = []

function isSameOrder(a: readonly Placed[], b: readonly Placed[]): boolean {
  const isSame = (x: Placed, y: Placed) => x.id === y.id && x.stage === y.stage && x.on === y.on
  return a === b || (a.length === b.length && a.every((t, i) => isSame(t, b[i])))
}

const PresetsDialog = lazy(() => import('../presets/presets-dialog'))

function Presets() {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button
        variant="text"
        sx={{ flex: 'none' }}
        aria-haspopup="dialog"
        data-command="presets"
        onClick={() => setOpen(true)}
      >
        Presets
      </Button>
      {open && (
        <Suspense>
          <PresetsDialog onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  )
}

const READINGS = [
  ['off', 'None'],
  ['phase', 'Phase'],
  ['delay', 'Group delay'],
  ['impulse', 'Impulse response'],
  ['step', 'Step response'],
  ['sum', 'Sum with a track'],
  ['gains', 'Gain over time'],
  ['low-end', 'Low end, left and right'],
] as const

/** What else is read of the chain, below the sheet, and what it costs in time. */
function ReadBelow({ node }: { node: string }) {
  const treatments = useOrder(node)
  const { sampleRateHz } = useRouting()
  const dispatch = useAppDispatch()
  const { kind } = useAppSelector(selectSheet).reading
  const costs = useSignal(useDesk().phaseCosts)
  const own = treatments.flatMap((t) => (t.on ? (costs.get(`${node} ${t.id}`) ?? []) : []))
  const frames = own.reduce((sum, c) => sum + c.latencyFrames, 0)
  const echo = own.reduce((most, c) => Math.max(most, c.preEchoDb ?? -200), -200)
  return (
    <div>
      <Row sx={{ justifyContent: 'space-between' }}>
        <Typography>Graph below</Typography>
        <Choice
          label="Graph below"
          value={kind}
          options={READINGS}
          onChange={(value) => dispatch(sheetActions.readingChanged({ kind: value }))}
        />
      </Row>
      <Typography variant="caption" color="textSecondary">
        {frames === 0 ? 'No latency' : `Latency ${((1000 * frames) / sampleRateHz).toFixed(1)} ms`}
        {echo > -120 ? `, pre-ringing ${signed(echo, 0)} dB` : ''}
      </Typography>
    </div>
  )
}

/** The chain as a list: reordered by drag or with the keyboard, also from one stage to another. */
function Treatments({ node }: { node: string }) {
  const treatments = useOrder(node)
  const edit = useEdit()
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
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
        <ul className={styles.stages}>
          {STAGES.map((stage) => (
            <Stage key={stage} node={node} treatments={treatments} stage={stage} />
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  )
}

interface StageProps {
  readonly node: string
  /** All of the chain. */
  readonly treatments: readonly Placed[]
  readonly stage: StageName
}

function Stage({ node, treatments, stage }: StageProps) {
  const dispatch = useAppDispatch()
  const chosenStage = useAppSelector((root) => root.interface.stage)
  const treatmentId = useAppSelector((root) => root.interface.treatmentId)
  const shown = shownTreatment(treatments, { stage: chosenStage, treatmentId })
  const inStage = treatments.filter((t) => t.stage === stage)
  return (
    <li data-chosen={stage === chosenStage}>
      <Row sx={{ gap: 0, flexWrap: 'nowrap' }}>
        <ButtonBase
          aria-current={stage === chosenStage}
          sx={{
            flex: 1,
            minHeight: 24,
            justifyContent: 'flex-start',
            fontWeight: stage === chosenStage ? 600 : 400,
          }}
          onClick={() => dispatch(interfaceActions.stageChosen(stage))}
        >
          {STAGE_NAMES[stage]}
        </ButtonBase>
        <AddTreatment node={node} stage={stage} />
      </Row>
      {inStage.length > 0 && (
        <PlainList as="ol" sx={{ gap: 0 }}>
          {inStage.map((placed) => (
            <TreatmentRow
              key={placed.id}
              node={node}
              id={placed.id}
              chosen={shown?.id === placed.id && stage === chosenStage}
              place={treatments.indexOf(placed)}
              count={treatments.length}
            />
          ))}
        </PlainList>
      )}
    </li>
  )
}

const KIND_NAMES = Object.keys(TREATMENT_KINDS) as KindName[]

/** A menu of all kinds of treatment. */
const AddTreatment = memo(function AddTreatment({
  node,
  stage,
}: {
  node: string
  stage: StageName
}) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const add = (kind: KindName) => {
    setAnchor(null)
    const treatment = newTreatment(kind, crypto.randomUUID(), stage)
    edit([{ kind: 'add-treatment', node, treatment, before: null }])
    dispatch(interfaceActions.treatmentChosen({ treatmentId: treatment.id, stage }))
  }
  return (
    <>
      <Button
        variant="text"
        startIcon={<AddIcon />}
        sx={{ minHeight: 22 }}
        aria-label={`Add a treatment to ${STAGE_NAMES[stage]}`}
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        Add
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {KIND_NAMES.map((kind) => (
          <MenuItem
            key={kind}
            title={meaningOf(TREATMENT_KINDS[kind].name as Word)}
            onClick={() => add(kind)}
          >
            {TREATMENT_KINDS[kind].name}
          </MenuItem>
        ))}
      </Menu>
    </>
  )
})

/** The end of the chain: its gain and polarity. */
const Output = memo(function Output({
  node,
  gainDb,
  polarity,
}: {
  node: string
} & Chain['output']) {
  const edit = useEdit()
  return (
    <Row sx={{ justifyContent: 'space-between' }}>
      <FigureField
        label="Output"
        term="Output"
        name="Chain output"
        unit="dB"
        value={gainDb}
        limits={[-48, 24]}
        format={(db) => formatDb(db)}
        step={(db, direction, fine) =>
          Math.round((db + direction * (fine ? 0.1 : 0.5)) * 100) / 100
        }
        onChange={(value, gesture) =>
          edit([{ kind: 'set-chain-output', node, change: { gainDb: value } }], { gesture })
        }
      />
      <TickBox
        label="⌀"
        name="Chain polarity inverted"
        checked={polarity === 'inverted'}
        onChange={(inverted) =>
          edit([
            {
              kind: 'set-chain-output',
              node,
              change: { polarity: inverted ? 'inverted' : 'normal' },
            },
          ])
        }
      />
    </Row>
  )
})
