import ToggleButton from '@mui/material/ToggleButton'
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup'
import type { Chain, WithoutTarget } from '@sober-prism/core/session'
import { errorSentence, type Rendition } from '@sober-prism/engine'
import { useDesk, useHeard } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { shownTreatment } from '../store/selectors'
import { useRoot, useSend } from '../store/store'

/** What is passed by, by its name on the buttons. */
const TARGETS = [
  ['treatment', 'Treatment'],
  ['stage', 'Stage'],
  ['chain', 'Chain'],
  ['all', 'All'],
] as const

type Of = (typeof TARGETS)[number][0]

/** Hearing without one treatment, one stage, this chain or everything; or only what they take away or add. */
export function HearChain({ node, chain }: { node: string; chain: Chain }) {
  const desk = useDesk()
  const send = useSend()
  const heard = useHeard()
  const view = useRoot((root) => root.interface)
  const treatment = shownTreatment(chain.treatments, view)
  const targetOf = (of: Of): WithoutTarget | null => {
    if (of === 'all') return { of }
    if (of === 'chain') return { of, node }
    if (of === 'stage') return { of, node, stage: view.stage }
    return treatment && { of, node, treatment: treatment.id }
  }
  const hear = (rendition: Rendition | null) => {
    if (!rendition) return desk.stopHearing()
    desk
      .hear(rendition)
      .catch((error) => send(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  }
  const now = heard?.rendition
  const pressed = now && now.kind !== 'finding' ? now.target.of : null
  const isDifference = now?.kind === 'difference'
  const choose = (of: Of | null) => {
    const target = of && targetOf(of)
    hear(target && { kind: isDifference ? 'difference' : 'without', target })
  }
  return (
    <div className="hear-chain">
      <span id="hear-without">Hear without</span>
      <ToggleButtonGroup
        size="small"
        exclusive
        value={pressed}
        aria-labelledby="hear-without"
        onChange={(_, of: Of | null) => choose(of)}
      >
        {TARGETS.map(([of, name]) => (
          <ToggleButton key={of} value={of} disabled={targetOf(of) === null}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <ToggleButton
        size="small"
        value="difference"
        selected={isDifference}
        disabled={pressed === null}
        onChange={() => {
          if (!now || now.kind === 'finding') return
          hear({ kind: isDifference ? 'without' : 'difference', target: now.target })
        }}
      >
        Only the difference
      </ToggleButton>
    </div>
  )
}
