import MoreIcon from '@mui/icons-material/ArrowDropDown'
import Popover from '@mui/material/Popover'
import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import { chainOf, type WithoutTarget } from '@sober-prism/core/session'
import { useState } from 'react'
import { Pane } from '../controls/layout'
import { useHeard } from '../shell/desk-context'
import { useHear } from '../shell/use-hear'
import { chosenNode, nodeName, openSession, shownTreatment } from '../store/selectors'
import { useAppSelector } from '../store/store'

/** What is passed by, by its name on the buttons. */
const TARGETS = [
  ['treatment', 'Treatment'],
  ['stage', 'Stage'],
  ['chain', 'Chain'],
  ['all', 'All'],
] as const

type Of = (typeof TARGETS)[number][0]

/** A button that opens what can be left out for listening, or heard alone; pressed while something is. */
export function Bypass({ disabled }: { disabled: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const now = useHeard()?.rendition
  const isOn = now !== undefined && ('target' in now || now.kind === 'band')
  return (
    <>
      <ToggleButton
        value="bypass"
        selected={isOn}
        disabled={disabled}
        aria-haspopup="dialog"
        title="Listen without a treatment, a stage, a chain or everything, or to one band"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        Bypass
        <MoreIcon fontSize="small" sx={{ mr: '-6px' }} />
      </ToggleButton>
      <Popover
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'center' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'center' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'Listen without, or to a part' } }}
      >
        <Ways />
      </Popover>
    </>
  )
}

/** Hearing without one treatment, one stage, this chain or everything; or only what they take away or add. */
function Ways() {
  const heard = useHeard()
  const node = useAppSelector(chosenNode)
  const name = useAppSelector((root) => nodeName(openSession(root), node))
  const stage = useAppSelector((root) => root.interface.stage)
  const bandId = useAppSelector((root) => root.interface.bandId)
  const treatment = useAppSelector((root) => {
    const treatments = chainOf(openSession(root), node)?.treatments ?? []
    return shownTreatment(treatments, root.interface)?.id ?? null
  })
  const targetOf = (of: Of): WithoutTarget | null => {
    if (of === 'all') return { of }
    if (of === 'chain') return { of, node }
    if (of === 'stage') return { of, node, stage }
    return treatment === null ? null : { of, node, treatment }
  }
  const hear = useHear()
  const now = heard?.rendition
  const pressed = now && 'target' in now ? now.target.of : null
  const isDifference = now?.kind === 'difference'
  const choose = (of: Of | null) => {
    const target = of && targetOf(of)
    hear(target && { kind: isDifference ? 'difference' : 'without', target })
  }
  return (
    <Pane sx={{ gap: '4px', justifyItems: 'start' }}>
      <Typography color="textSecondary">On {name}, at equal loudness</Typography>
      <Typography id="hear-without">Bypass</Typography>
      <ToggleButtonGroup
        exclusive
        value={pressed}
        aria-labelledby="hear-without"
        onChange={(_, of: Of | null) => choose(of)}
      >
        {TARGETS.map(([of, name]) => (
          <ToggleButton key={of} value={of} sx={{ px: 0.75 }} disabled={targetOf(of) === null}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <ToggleButton
        value="difference"
        selected={isDifference}
        disabled={pressed === null}
        onChange={() => {
          if (!now || !('target' in now)) return
          hear({ kind: isDifference ? 'without' : 'difference', target: now.target })
        }}
      >
        Difference only
      </ToggleButton>
      <Typography id="hear-band">Listen to band</Typography>
      <ToggleButtonGroup
        exclusive
        value={now?.kind === 'band' ? now.way : null}
        aria-labelledby="hear-band"
        disabled={bandId === null}
        onChange={(_, way: 'only' | 'rest' | null) =>
          hear(way && bandId !== null ? { kind: 'band', node, band: bandId, way } : null)
        }
      >
        <ToggleButton value="only" sx={{ px: 0.75 }}>
          Band only
        </ToggleButton>
        <ToggleButton value="rest" sx={{ px: 0.75 }}>
          All but band
        </ToggleButton>
      </ToggleButtonGroup>
    </Pane>
  )
}
