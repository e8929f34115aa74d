import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import Typography from '@mui/material/Typography'
import { chainOf, type WithoutTarget } from '@sober-prism/core/session'
import { errorSentence, type Rendition } from '@sober-prism/engine'
import { memo } from 'react'
import { useDesk, useHeard } from '../../shell/desk-context'
import { interfaceActions } from '../../store/interface-slice'
import { openSession, shownTreatment } from '../../store/selectors'
import { useAppDispatch, useAppSelector } from '../../store/store'

/** What is passed by, by its name on the buttons. */
const TARGETS = [
  ['treatment', 'Treatment'],
  ['stage', 'Stage'],
  ['chain', 'Chain'],
  ['all', 'All'],
] as const

type Of = (typeof TARGETS)[number][0]

/** Hearing without one treatment, one stage, this chain or everything; or only what they take away or add. */
export const HearChain = memo(function HearChain({ node }: { node: string }) {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const heard = useHeard()
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
  const hear = (rendition: Rendition | null) => {
    if (!rendition) return desk.stopHearing()
    desk
      .hear(rendition)
      .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  }
  const now = heard?.rendition
  const pressed = now && 'target' in now ? now.target.of : null
  const isDifference = now?.kind === 'difference'
  const choose = (of: Of | null) => {
    const target = of && targetOf(of)
    hear(target && { kind: isDifference ? 'difference' : 'without', target })
  }
  return (
    <div>
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
        sx={{ mt: 0.5 }}
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
    </div>
  )
})
