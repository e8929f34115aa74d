import AddIcon from '@mui/icons-material/Add'
import MoreIcon from '@mui/icons-material/ArrowDropDown'
import HideIcon from '@mui/icons-material/ExpandMore'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import ListItemText from '@mui/material/ListItemText'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import { FILTER_TYPES, type FilterType } from '@sober-prism/core/filters'
import { memo, type ReactNode, useState } from 'react'
import { Choice } from '../controls/choice'
import { IconAction } from '../controls/icon-action'
import { Pane, Row } from '../controls/layout'
import { TickBox } from '../controls/tick-box'
import { useRouting } from '../store/selectors'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { copyBands, pasteBands } from './bands/band-clipboard'
import type { BandEditing } from './bands/use-bands'
import { TYPE_NAMES } from './names'
import { type ReadingState, selectSheet, sheetActions } from './sheet-slice'

const START_HZ: Partial<Record<FilterType, number>> = {
  'low-shelf': 150,
  'high-shelf': 6000,
  'low-cut': 60,
  'high-cut': 12000,
}

const SPANS = [
  ['auto', 'Auto range'],
  [3, '±3 dB'],
  [6, '±6 dB'],
  [12, '±12 dB'],
  [24, '±24 dB'],
  ['deep', 'to −120 dB'],
] as const

const READINGS = [
  ['off', 'No graph below'],
  ['phase', 'Phase'],
  ['delay', 'Group delay'],
  ['impulse', 'Impulse response'],
  ['step', 'Step response'],
  ['sum', 'Sum with a track'],
  ['gains', 'Gain over time'],
  ['low-end', 'Low end, left and right'],
] as const

/** What a graph below the sheet is called. */
export function readingName(kind: ReadingState['kind']): string {
  return READINGS.find(([k]) => k === kind)?.[1] ?? ''
}

/** New bands, and how the sheet is drawn. */
export const SheetTools = memo(function SheetTools({
  node,
  editing,
  onHide,
}: {
  node: string
  editing: BandEditing
  onHide: (() => void) | undefined
}) {
  const dispatch = useAppDispatch()
  const { span, reading } = useAppSelector(selectSheet)
  const add = (type: FilterType) => editing.add(type, START_HZ[type] ?? 1000, 0)
  return (
    <Row
      sx={{ gap: '2px', minHeight: 30, p: '0 12px 0 6px', minWidth: 0 }}
      role="toolbar"
      aria-label="Sheet"
    >
      <Button variant="text" startIcon={<AddIcon />} onClick={() => add('bell')}>
        Bell
      </Button>
      <MenuButton name="Other band" icon={<AddIcon />}>
        {(close) =>
          [
            ...FILTER_TYPES.filter((type) => type !== 'bell').map(
              (type) => [TYPE_NAMES[type], () => add(type)] as const,
            ),
            ['Copy selected bands', () => void copyBands(store)] as const,
            ['Paste bands', () => pasteBands(store)] as const,
          ].map(([name, run]) => (
            <MenuItem
              key={name}
              onClick={() => {
                close()
                run()
              }}
            >
              {name}
            </MenuItem>
          ))
        }
      </MenuButton>
      <Box component="span" sx={{ flex: 1 }} />
      <LiveTools />
      <GhostTools node={node} />
      <Choice
        label="Graph below"
        value={reading.kind}
        options={READINGS}
        onChange={(kind) => dispatch(sheetActions.readingChanged({ kind }))}
      />
      <Choice
        label="Scale of the sheet"
        value={span}
        options={SPANS}
        onChange={(value) => dispatch(sheetActions.viewChanged({ span: value }))}
      />
      {onHide && <IconAction label="Hide the equaliser" icon={<HideIcon />} onClick={onHide} />}
    </Row>
  )
})

interface MenuButtonProps {
  readonly name: string
  readonly icon?: ReactNode
  readonly children: (close: () => void) => ReactNode
}

function MenuButton({ name, icon, children }: MenuButtonProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const close = () => setAnchor(null)
  return (
    <>
      <Button
        variant="text"
        startIcon={icon}
        endIcon={<MoreIcon />}
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {name}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        {children(close)}
      </Menu>
    </>
  )
}

/** Which other spectra stand behind. */
function GhostTools({ node }: { node: string }) {
  const session = useRouting()
  const dispatch = useAppDispatch()
  const { ghosts } = useAppSelector(selectSheet)
  const others = [
    ...[...session.tracks, ...session.groups]
      .filter((n) => n.id !== node)
      .map((n) => [n.id, `${n.letter} ${n.name}`] as const),
    ...session.references.map((r) => [r.id, `${r.name}, reference`] as const),
  ]
  if (others.length === 0) return null
  return (
    <MenuButton name="Overlay">
      {() =>
        others.map(([id, name]) => (
          <MenuItem
            key={id}
            role="menuitemcheckbox"
            aria-checked={ghosts.includes(id)}
            onClick={() => dispatch(sheetActions.ghostSwitched(id))}
          >
            <Checkbox checked={ghosts.includes(id)} tabIndex={-1} inert />
            <ListItemText>{name}</ListItemText>
          </MenuItem>
        ))
      }
    </MenuButton>
  )
}

/** How live spectra are drawn. */
function LiveTools() {
  const dispatch = useAppDispatch()
  const view = useAppSelector(selectSheet)
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const change = (values: Parameters<typeof sheetActions.viewChanged>[0]) =>
    dispatch(sheetActions.viewChanged(values))
  return (
    <>
      <Button
        variant="text"
        endIcon={<MoreIcon />}
        aria-haspopup="dialog"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        Live spectrum{view.frozen ? ', frozen' : view.live ? '' : ', off'}
      </Button>
      <Popover
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { 'aria-label': 'Live spectrum', role: 'dialog' } }}
      >
        <Pane sx={{ maxWidth: 270, gap: '6px' }}>
          <Typography variant="body2" color="textSecondary">
            Dotted: chain input. Solid: chain output.
          </Typography>
          <TickBox
            label="Show during playback"
            checked={view.live}
            onChange={(live) => change({ live })}
          />
          <Choice
            label="Resolution"
            value={view.probe.resolution}
            options={[
              ['coarse', '1/3 octave, 85 ms'],
              ['medium', '1/6 octave, 171 ms'],
              ['fine', '1/12 octave, 341 ms'],
            ]}
            onChange={(resolution) => dispatch(sheetActions.probeChanged({ resolution }))}
          />
          <Choice
            label="Speed"
            value={view.probe.speed}
            options={[
              ['fast', 'Fast, 50 ms'],
              ['medium', 'Medium, 300 ms'],
              ['slow', 'Slow, 2 s'],
            ]}
            onChange={(speed) => dispatch(sheetActions.probeChanged({ speed }))}
          />
          <Choice
            label="Average or peak"
            value={view.probe.show}
            options={[
              ['average', 'Average power'],
              ['peak', 'Peaks, slow release'],
            ]}
            onChange={(show) => dispatch(sheetActions.probeChanged({ show }))}
          />
          <Choice
            label="Tilt"
            value={view.tilt}
            options={[
              [0, 'Pink noise reads flat'],
              [3, '+3 dB/oct'],
              [4.5, '+4.5 dB/oct'],
            ]}
            onChange={(tilt) => change({ tilt })}
          />
          <TickBox label="Peak hold" checked={view.hold} onChange={(hold) => change({ hold })} />
          <TickBox label="Freeze" checked={view.frozen} onChange={(frozen) => change({ frozen })} />
        </Pane>
      </Popover>
    </>
  )
}
