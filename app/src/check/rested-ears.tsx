import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { chainOf, type Session } from '@sober-prism/core/session'
import { kindOf } from '@sober-prism/core/treatments'
import { Entry, EntryHead, Row } from '../controls/layout'
import { formatDay } from '../format'
import { useHeard } from '../shell/desk-context'
import { useHear } from '../shell/use-hear'
import { interfaceActions } from '../store/interface-slice'
import { nodeName } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { type Doubt, decided, doubtsOf } from './doubts'

/** Doubts of another day, each to be heard with and without, and decided at a press. */
export function RestedEars({ session }: { session: Session }) {
  const { rested, later } = doubtsOf(session)
  if (rested.length + later.length === 0) return null
  return (
    <>
      {rested.map((doubt) => (
        <DoubtCard key={doubt.key} doubt={doubt} session={session} />
      ))}
      {later.length > 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ p: '8px 14px' }}>
          {later.length === 1 ? 'One doubt is' : `${later.length} doubts are`} kept for the next
          time this session is opened.
        </Typography>
      )}
    </>
  )
}

function DoubtCard({ doubt, session }: { doubt: Doubt; session: Session }) {
  const { node, treatment, keptAt } = doubt
  const edit = useEdit()
  const hear = useHear()
  const dispatch = useAppDispatch()
  const now = useHeard()?.rendition
  const found = chainOf(session, node)?.treatments.find((t) => t.id === treatment)
  if (!found) return null
  const target = { of: 'treatment', node, treatment } as const
  const isHeard = now?.kind === 'without' && JSON.stringify(now.target) === JSON.stringify(target)
  const kind = kindOf(found.kind)
  const name = `${nodeName(session, node)}: ${kind.name}`
  const say = (text: string) => dispatch(interfaceActions.noticeShown(text, 'info', 'edit'))
  return (
    <Entry aria-label={name}>
      <EntryHead>
        <Typography variant="h3">{name}</Typography>
      </EntryHead>
      <Typography>
        You kept this to hear with rested ears, on {formatDay(keptAt)}.{' '}
        {kind.describe(found.params)}
      </Typography>
      <Row>
        <ToggleButton
          value="without"
          selected={isHeard}
          onClick={() => hear(isHeard ? null : { kind: 'without', target })}
        >
          Listen without it
        </ToggleButton>
        <Button
          variant="contained"
          onClick={() => {
            edit([decided(doubt)])
            say('It stays.')
          }}
        >
          It stays
        </Button>
        <Button
          onClick={() => {
            edit([decided(doubt), { kind: 'remove-treatment', node, treatment }])
            say(`${kind.name} removed.`)
          }}
        >
          Take it out
        </Button>
      </Row>
    </Entry>
  )
}
