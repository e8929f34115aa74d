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
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
} from '@dnd-kit/sortable'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import { chainOf } from '@sober-prism/core/session'
import {
  STAGES,
  type StageName,
  TREATMENT_KINDS,
  type Treatment,
} from '@sober-prism/core/treatments'
import { memo, useLayoutEffect, useState } from 'react'
import { Badge } from '../../controls/badge'
import { PlainList } from '../../controls/layout'
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
import { useSize } from '../../use-size'
import { STAGE_NAMES } from '../names'
import styles from '../sheet.module.css'
import { AddTreatment } from './add-treatment'
import { ChainEnds } from './chain-ends'
import { TreatmentChip } from './treatment-chip'

/** A narrow window shows whose chain it is by the letter alone. */
const NARROW = { '@media (max-width: 1100px)': { display: 'none' } }

/** Whose chain it is, and its treatments on one line in the order in which sound passes them. */
export const ChainLine = memo(function ChainLine() {
  const session = useRouting()
  const node = useAppSelector(chosenNode)
  const name = nodeName(session, node)
  const letter = nodeOf(session, node)?.letter
  return (
    <section className={styles.chain} aria-label={`Chain of ${name}`}>
      {letter && <Badge letter={letter} />}
      <Typography
        variant="h2"
        noWrap
        title={name}
        sx={{ maxWidth: 110, flex: '0 1 auto', ...(letter && NARROW) }}
      >
        {name}
      </Typography>
      <Treatments node={node} />
      <Presets />
      <ChainEnds node={node} />
    </section>
  )
})

/** A treatment's place in its chain, which does not change while its values do. */
type Placed = Pick<Treatment, 'id' | 'stage' | 'on' | 'kind'>

const NO_TREATMENTS: readonly Treatment[] = []

function useOrder(node: string): readonly Placed[] {
  return useAppSelector(
    (root) => chainOf(openSession(root), node)?.treatments ?? NO_TREATMENTS,
    isSameOrder,
  )
}

function isSameOrder(a: readonly Placed[], b: readonly Placed[]): boolean {
  const isSame = (x: Placed, y: Placed) => x.id === y.id && x.stage === y.stage && x.on === y.on
  return a === b || (a.length === b.length && a.every((t, i) => isSame(t, b[i])))
}

function Presets() {
  const dispatch = useAppDispatch()
  return (
    <Button
      variant="text"
      sx={{ flex: 'none' }}
      aria-haspopup="dialog"
      onClick={() => dispatch(interfaceActions.presetsSwitched(true))}
    >
      Presets
    </Button>
  )
}

/** A chip is lifted by the space bar, so that Enter chooses it as a press does. */
const LIFTING = { start: ['Space'], cancel: ['Escape'], end: ['Space', 'Enter', 'Tab'] }

/** The treatments: reordered by drag or with the keyboard, also from one stage to another. */
function Treatments({ node }: { node: string }) {
  const treatments = useOrder(node)
  const edit = useEdit()
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, {
      coordinateGetter: sortableKeyboardCoordinates,
      keyboardCodes: LIFTING,
    }),
  )
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const from = treatments.findIndex((t) => t.id === active.id)
    const to = treatments.findIndex((t) => t.id === over?.id)
    if (from < 0 || to < 0 || from === to) return
    const target = treatments[to]
    // Moved to the right, it comes to stand behind the one it is dropped on.
    const next = from < to ? treatments[to + 1] : target
    const before = next?.stage === target.stage ? next.id : null
    edit([
      { kind: 'move-treatment', node, treatment: String(active.id), stage: target.stage, before },
    ])
  }
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext items={treatments.map((t) => t.id)} strategy={horizontalListSortingStrategy}>
        <Stages node={node} treatments={treatments} />
      </SortableContext>
    </DndContext>
  )
}

interface StagesProps {
  readonly node: string
  readonly treatments: readonly Placed[]
}

/** The three stages beside each other; where they have no room, those that are not worked in fold to a number. */
function Stages({ node, treatments }: StagesProps) {
  const [ref, { width }] = useSize<HTMLUListElement>()
  const chosenStage = useAppSelector((root) => root.interface.stage)
  const state = `${width} ${chosenStage} ${treatments.map((t) => `${t.stage} ${t.kind}`).join()}`
  const [foldedIn, setFoldedIn] = useState<string | null>(null)
  const isFolded = foldedIn === state
  useLayoutEffect(() => {
    const list = ref.current
    if (list && !isFolded && list.scrollWidth > list.clientWidth + 1) setFoldedIn(state)
  }, [ref, isFolded, state])
  return (
    <ul ref={ref} className={styles.stages}>
      {STAGES.map((stage) => (
        <Stage
          key={stage}
          node={node}
          treatments={treatments}
          stage={stage}
          folded={isFolded && stage !== chosenStage}
        />
      ))}
    </ul>
  )
}

interface StageProps extends StagesProps {
  readonly stage: StageName
  readonly folded: boolean
}

function Stage({ node, treatments, stage, folded }: StageProps) {
  const dispatch = useAppDispatch()
  const chosenStage = useAppSelector((root) => root.interface.stage)
  const treatmentId = useAppSelector((root) => root.interface.treatmentId)
  const shown = shownTreatment(treatments, { stage: chosenStage, treatmentId })
  const inStage = treatments.filter((t) => t.stage === stage)
  const names = inStage.map((t) => TREATMENT_KINDS[t.kind].name).join(', ')
  const isShort = folded && inStage.length > 0
  return (
    <li data-chosen={stage === chosenStage}>
      <ButtonBase
        aria-current={stage === chosenStage}
        title={names}
        sx={{ minHeight: 26, px: '2px', fontWeight: stage === chosenStage ? 600 : 400 }}
        onClick={() => dispatch(interfaceActions.stageChosen(stage))}
      >
        {STAGE_NAMES[stage]}
        {isShort && (
          <Box component="span" sx={{ ml: '4px', px: '4px', border: 1, borderColor: 'divider' }}>
            {inStage.length}
          </Box>
        )}
      </ButtonBase>
      {inStage.length > 0 && !isShort && (
        <PlainList as="ol" sx={{ display: 'flex', gap: '3px', minWidth: 0 }}>
          {inStage.map((placed) => (
            <TreatmentChip
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
      {!folded && <AddTreatment node={node} stage={stage} />}
    </li>
  )
}
