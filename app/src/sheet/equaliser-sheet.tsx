import Box from '@mui/material/Box'
import { RulerPlot } from '../plot/ruler-plot'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, useRouting } from '../store/selectors'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { useBandClipboard } from './bands/band-clipboard'
import { useBands } from './bands/use-bands'
import { ChainLine } from './chain/chain-line'
import { AROUND } from './heights'
import { bandsIn, equaliserOf, onSheet } from './on-sheet'
import { SheetTools } from './sheet-tools'
import { type SheetLayout, SheetWork } from './sheet-work'

interface EqualiserSheetProps extends SheetLayout {
  /** Whether it bears the ruler itself, where no picture above it does. */
  readonly ruler?: boolean
  /** Puts it away, where that is possible. */
  readonly onHide?: () => void
}

/** Where a window is low, or seen at twice its size, the sheet keeps its height and scrolls. */
const LOW = {
  '@media (max-height: 560px)': { overflowY: 'auto', '& > div': { minHeight: 300 } },
}

/** The chain of the chosen track, group or mix, and its treatment on the one ruler. */
export function EqualiserSheet(props: EqualiserSheetProps) {
  const { over, ruler = false, valuesBeside = false, readingElsewhere = false, onHide } = props
  const node = useAppSelector(chosenNode)
  const name = nodeName(useRouting(), node)
  const stage = useAppSelector((root) => root.interface.stage)
  const equaliserId = useAppSelector((root) => equaliserOf(onSheet(root, node).treatment)?.id)
  const editing = useBands(node, stage, equaliserId ?? null)
  const dispatch = useAppDispatch()
  useBandClipboard()
  return (
    <Box
      component="section"
      sx={{
        display: 'grid',
        gridTemplate: 'auto minmax(0, 1fr) / minmax(0, 1fr)',
        minWidth: 0,
        minHeight: 0,
        overflow: 'hidden',
        ...LOW,
      }}
      aria-label={`Equaliser of ${name}`}
      onKeyDown={(event) => {
        const isFlag = event.target instanceof Element && event.target.matches('[data-kind="flag"]')
        if (!isFlag || !(event.ctrlKey || event.metaKey) || event.key !== 'a') return
        event.preventDefault()
        const { treatment } = onSheet(store.getState(), node)
        dispatch(interfaceActions.bandsChosen(bandsIn(treatment).map((m) => m.id)))
      }}
    >
      <ChainLine />
      <SheetWork
        node={node}
        editing={editing}
        over={over}
        valuesBeside={valuesBeside}
        readingElsewhere={readingElsewhere}
        tools={
          <>
            <SheetTools node={node} editing={editing} onHide={onHide} />
            {ruler && (
              <Box sx={{ display: 'grid', gridTemplateRows: `${AROUND.ruler}px` }}>
                <RulerPlot />
              </Box>
            )}
          </>
        }
        around={AROUND.tools + (ruler ? AROUND.ruler : 0)}
      />
    </Box>
  )
}
