import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import type { YieldOption } from '@sober-prism/core/findings'
import { type Edit, withIdentities } from '@sober-prism/core/session'
import { kindOf } from '@sober-prism/core/treatments'
import { useState } from 'react'
import { Column, PlainList, Row } from '../controls/layout'
import { Running } from '../controls/running'
import { formatShare, panText, signed } from '../format'
import { EITHER_MISSING, useAsked } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, openSession, useSession } from '../store/selectors'
import { store, useAppDispatch, useEdit } from '../store/store'

const NAMES = {
  cut: 'Static EQ cut',
  follow: 'Dynamic EQ',
  duck: 'Spectral ducking',
  aside: 'Pan off centre',
} as const

interface YieldOptionsProps {
  readonly target: string
  readonly masker: string
  readonly onTaken: () => void
}

/** Ways in which one track may yield to another, each tried on both, to be taken. */
export function YieldOptions({ target, masker, onTaken }: YieldOptionsProps) {
  const session = useSession()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const [tried, setTried] = useState(0)
  const { answer, share, trouble, stop } = useAsked(
    'yielding',
    { key: target, yielding: masker },
    { subject: `${target} ${masker} ${tried}`, depends: [], tell: 'here' },
  )
  const again = (
    <Button variant="text" onClick={() => setTried(tried + 1)}>
      Try again
    </Button>
  )
  if (share !== null) {
    return (
      <Running
        what={`Testing on ${nodeName(session, masker)} and ${nodeName(session, target)}`}
        share={share}
        onCancel={stop}
      />
    )
  }
  if (!answer) {
    return (
      <Row>
        <Typography>{trouble ?? EITHER_MISSING}</Typography>
        {again}
      </Row>
    )
  }
  const { before, options } = answer
  const take = (option: YieldOption) => {
    if (option.kind === 'aside') {
      edit([{ kind: 'set-node', node: masker, change: { pan: option.pan } }])
    } else takeTreatment(option)
    const said = `${NAMES[option.kind]}: on ${nodeName(session, masker)}.`
    dispatch(interfaceActions.noticeShown(said, 'info', 'edit'))
    onTaken()
  }
  const takeTreatment = (option: TreatmentOption) => {
    const [made] = withIdentities(takeEdits(option, target, masker), () => crypto.randomUUID())
    if (made.kind !== 'add-treatment') return
    const won = `${formatShare(before.keyHeard)} to ${formatShare(option.after.keyHeard)}`
    const reason = `Room for ${nodeName(session, target)}: heard from ${won} when tested`
    edit([{ ...made, treatment: { ...made.treatment, reason } }])
    dispatch(
      interfaceActions.treatmentChosen({
        node: masker,
        treatmentId: made.treatment.id,
        stage: 'fit',
      }),
    )
  }
  if (options.length === 0) {
    return (
      <Row>
        <Typography>Nothing tested makes 1 % more of it heard.</Typography>
        {again}
      </Row>
    )
  }
  return (
    <PlainList as="ol">
      {options.map((option, i) => (
        <Column key={option.kind} as="li" sx={{ gap: '3px' }}>
          <Typography component="span" sx={{ fontWeight: i === 0 ? 600 : 400 }}>
            {NAMES[option.kind]}
            {i === 0 ? ' (recommended)' : ''}
          </Typography>
          <Typography variant="body2" color="textSecondary">
            {told(option)}. Only these two playing: {nodeName(session, target)}{' '}
            {formatShare(before.keyHeard)} → {formatShare(option.after.keyHeard)} heard;{' '}
            {nodeName(session, masker)} {signed(option.after.yieldingSone - before.yieldingSone, 1)}{' '}
            of {before.yieldingSone.toFixed(1)} sone.
          </Typography>
          <Button sx={{ justifySelf: 'start' }} onClick={() => take(option)}>
            Apply
          </Button>
        </Column>
      ))}
      <li>{again}</li>
    </PlainList>
  )
}

type TreatmentOption = Extract<YieldOption, { readonly treatment: unknown }>

function told(option: YieldOption): string {
  return option.kind === 'aside'
    ? `Panned ${panText(option.pan)}`
    : kindOf(option.treatment.kind).describe(option.treatment.params)
}

/** The edit that makes an option: what follows listens to the target, at what their faders differ by. */
function takeEdits({ treatment }: TreatmentOption, target: string, masker: string): Edit[] {
  const { tracks } = openSession(store.getState())
  const faderOf = (id: string) => tracks.find((t) => t.id === id)?.faderDb ?? 0
  const keyed =
    treatment.kind === 'duck'
      ? {
          ...treatment,
          // Behind its fader the key is heard as in the mix; the sound itself is treated before its own.
          params: {
            ...treatment.params,
            keyDb: Math.max(-48, Math.min(48, Number((-faderOf(masker)).toFixed(2)))),
          },
        }
      : treatment
  const key =
    treatment.kind === 'equaliser'
      ? null
      : ({ node: target, tap: 'after-fader', as: 'mono' } as const)
  return [{ kind: 'add-treatment', node: masker, treatment: { ...keyed, key }, before: null }]
}
