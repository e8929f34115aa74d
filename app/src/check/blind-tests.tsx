import RemoveIcon from '@mui/icons-material/Close'
import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import {
  AS_IT_CAME,
  type BlindTest,
  type Session,
  sessionInVariation,
} from '@sober-prism/core/session'
import { fingerprintOf } from '@sober-prism/engine'
import { useState } from 'react'
import { Choice } from '../controls/choice'
import { FigureField } from '../controls/figure-field'
import { IconAction } from '../controls/icon-action'
import { Column, Row } from '../controls/layout'
import { download } from '../jobs/download'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { BlindDialog } from './blind-dialog'
import { blindVerdict, powerText } from './blind-words'
import type { ComparedState } from './use-states'

const KINDS = [
  ['which', 'Which is it?'],
  ['better', 'Which do you like better?'],
] as const
const TRIALS = [8, 12, 16, 24]

/** Blind tests between two states: one is set up here, and those that were made are listed. */
export function BlindTests({ states }: { states: readonly ComparedState[] }) {
  const session = useSession()
  const desk = useDesk()
  const edit = useEdit()
  const [kind, setKind] = useState<BlindTest['kind']>('which')
  const [trials, setTrials] = useState(12)
  const [chosen, setChosen] = useState<readonly [string | null, string | null]>([null, null])
  const [running, setRunning] = useState<string | null>(null)
  const kept = states.filter((s) => s.sign !== '')
  const worked = kept.find((s) => s.isWorkedIn)
  const second = kept.find((s) => s.id === chosen[1]) ?? worked ?? kept[0]
  const others = kept.filter((s) => s !== second)
  const first = others.find((s) => s.id === chosen[0]) ?? others.at(-1)
  const options = (list: readonly ComparedState[]) =>
    list.map((s) => [s.id, `${s.sign} ${s.name}`] as const)
  const begin = () => {
    if (!first) return
    const id = crypto.randomUUID()
    const [seed] = crypto.getRandomValues(new Uint32Array(1))
    const stateOf = ({ id: of, name }: ComparedState) => ({
      id: of,
      name,
      state: fingerprintOf(sessionInVariation(session, of)),
    })
    const test: BlindTest = {
      id,
      kind,
      first: stateOf(first),
      second: stateOf(second),
      trials,
      seed,
      answers: [],
      beganAt: new Date().toISOString(),
    }
    edit([{ kind: 'keep-blind-test', test }], { listening: true })
    setRunning(id)
  }
  return (
    <Column sx={{ gap: '14px', alignContent: 'start', p: '14px 18px', overflowY: 'auto' }}>
      {!first ? (
        <Typography>
          Keep what stands as a variation first: a blind test is between two states.
        </Typography>
      ) : (
        <Column as="section" aria-label="A new blind test" sx={{ gap: '10px' }}>
          <Row>
            <Choice label="Question" value={kind} options={KINDS} onChange={setKind} />
            <Choice
              label="First"
              value={first.id}
              options={options(others)}
              onChange={(id) => setChosen([id, second.id])}
            />
            <Typography>or</Typography>
            <Choice
              label="Second"
              value={second.id}
              options={options(kept)}
              onChange={(id) => setChosen([first.id === id ? null : first.id, id])}
            />
          </Row>
          <Row>
            <FigureField
              label="Trials"
              value={trials}
              format={(v) => v.toFixed(0)}
              limits={[4, 100]}
              step={(v, direction) => v + direction}
              unit="trials"
              characters={3}
              showLabel={false}
              onChange={(v) => setTrials(Math.round(v))}
            />
            {TRIALS.map((n) => (
              <ToggleButton
                key={n}
                value={n}
                selected={n === trials}
                aria-label={`${n} trials`}
                onClick={() => setTrials(n)}
              >
                {n}
              </ToggleButton>
            ))}
            <Button variant="contained" data-command="blind-test" onClick={begin}>
              Begin
            </Button>
          </Row>
          <Typography variant="body2" color="textSecondary" sx={{ maxWidth: '70ch' }}>
            Both play as loud as each other and at the same place; you go from one to the other as
            often as you like. Of {trials} trials: {powerText(trials)} The more trials, the smaller
            a difference they can tell.
          </Typography>
        </Column>
      )}
      <Finished session={session} />
      {running && (
        <BlindDialog
          id={running}
          onClose={() => {
            setRunning(null)
            desk.stopHearing()
          }}
        />
      )}
    </Column>
  )
}

function Finished({ session }: { session: Session }) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const { blindTests: tests } = session
  if (tests.length === 0) return null
  const exportAll = () => {
    const made = tests.map((test) => ({ ...test, ...blindVerdict(test) }))
    const text = JSON.stringify(made, null, 1)
    const blob = new Blob([text], { type: 'application/json' })
    download(`${session.name} blind tests.json`, blob)
  }
  return (
    <section aria-label="Blind tests made">
      <Row sx={{ justifyContent: 'space-between' }}>
        <Typography variant="h2">Tests made</Typography>
        <Button variant="text" onClick={exportAll}>
          Export
        </Button>
      </Row>
      <Table size="small" aria-label="Blind tests">
        <TableHead>
          <TableRow>
            <TableCell>Question</TableCell>
            <TableCell>Result</TableCell>
            <TableCell>
              <span className="visually-hidden">Remove</span>
            </TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {tests.toReversed().map((test) => {
            const { score, odds, verdict } = blindVerdict(test)
            const changed = changedSince(session, test)
            const title = KINDS.find(([kind]) => kind === test.kind)?.[1]
            return (
              <TableRow key={test.id}>
                <TableCell>
                  {title} {test.first.name} or {test.second.name}
                  {changed.length > 0 && (
                    <Typography variant="body2" color="warning">
                      {changed.join(' and ')} changed since.
                    </Typography>
                  )}
                </TableCell>
                <TableCell>
                  <strong>{score}</strong>. {odds} {verdict}
                </TableCell>
                <TableCell>
                  <IconAction
                    label={`Remove the test of ${test.first.name} and ${test.second.name}`}
                    icon={<RemoveIcon />}
                    onClick={() => {
                      edit([{ kind: 'remove-blind-test', test: test.id }])
                      dispatch(interfaceActions.noticeShown('Test removed.', 'info'))
                    }}
                  />
                </TableCell>
              </TableRow>
            )
          })}
        </TableBody>
      </Table>
    </section>
  )
}

/** The states of a test that are not what they were then, or are gone. */
function changedSince(session: Session, { first, second }: BlindTest): string[] {
  return [first, second].flatMap(({ id, name, state }) => {
    const isThere = id === AS_IT_CAME || session.variations.list.some((v) => v.id === id)
    return isThere && fingerprintOf(sessionInVariation(session, id)) === state ? [] : [name]
  })
}
