import RemoveIcon from '@mui/icons-material/Close'
import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { AS_IT_CAME, type Session } from '@sober-prism/core/session'
import { gainsToQuietest, type StateFigures } from '@sober-prism/engine'
import { Badge } from '../controls/badge'
import { IconAction } from '../controls/icon-action'
import { Column } from '../controls/layout'
import { formatShare, signed } from '../format'
import { useAnalysis, useHeard } from '../shell/desk-context'
import { useHear } from '../shell/use-hear'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { HeardBar } from '../tracks/heard-bar'
import {
  type ComparedState,
  greatestBoostDb,
  leadsHeard,
  movesOf,
  rmsOf,
  toneBetween,
  WHAT_STANDS,
} from './use-states'

interface StateTableProps {
  readonly session: Session
  readonly states: readonly ComparedState[]
  readonly figures: ReadonlyMap<string, StateFigures>
  /** Which of them is heard; null for the session as it is rendered. */
  readonly heard: string | null
  readonly onHear: (id: string) => void
}

const FIGURE = { textAlign: 'right', typography: 'figure', whiteSpace: 'nowrap' } as const

/** All states with what they do, each a key away. */
export function StateTable(props: StateTableProps) {
  const { session, states, figures, heard, onHear } = props
  const gains = gainsToQuietest(
    new Map([...figures].map(([id, { mix }]) => [id, mix.lufs] as const)),
  )
  const came = figures.get(AS_IT_CAME)
  return (
    <Table aria-label="States of the session" size="small">
      <TableHead>
        <TableRow>
          <TableCell>State</TableCell>
          <TableCell>Listen</TableCell>
          <TableCell title="Part of the loudness of the leads that is clear, crowded and hidden">
            {session.leadIds.length > 0 ? 'Leads' : 'Tracks'} clear
          </TableCell>
          <TableCell sx={FIGURE} title="Difference in tone to the session as it came, rms">
            Tone, dB
          </TableCell>
          <TableCell sx={FIGURE} title="Treatments and bands that are on">
            Moves
          </TableCell>
          <TableCell sx={FIGURE} title="The greatest boost of any band">
            Boost
          </TableCell>
          <TableCell sx={FIGURE} title="True peak, in dBTP">
            Peak
          </TableCell>
          <TableCell sx={FIGURE} title="Loudness range, in LU">
            Range
          </TableCell>
          <TableCell
            sx={FIGURE}
            title="By how much its chains make the sound late, in milliseconds"
          >
            Late, ms
          </TableCell>
          <TableCell sx={FIGURE} title="What makes all of them as loud as the quietest">
            Gain
          </TableCell>
          <TableCell>
            <span className="visually-hidden">Work in it</span>
          </TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {states.map((state) => {
          const own = figures.get(state.id)
          const parts = own ? leadsHeard(own, state.session) : null
          const tone = own && came ? toneBetween(came.mix, own.mix) : null
          const isHeard = heard === state.id
          return (
            <TableRow key={state.id} selected={isHeard} data-worked={state.isWorkedIn}>
              <TableCell sx={{ width: '24%' }}>
                <StateName state={state} />
              </TableCell>
              <TableCell>
                <ToggleButton
                  value={state.id}
                  sx={{ minWidth: 64, whiteSpace: 'nowrap' }}
                  selected={isHeard}
                  aria-label={`Listen to ${state.name}`}
                  title={state.sign ? `Key ${state.sign}` : undefined}
                  onClick={() => onHear(state.id)}
                >
                  {isHeard ? 'Heard' : 'Listen'}
                </ToggleButton>
              </TableCell>
              <TableCell>
                {parts ? (
                  <Column sx={{ gap: '2px', minWidth: 64 }}>
                    <Typography variant="figure">{formatShare(parts.clear)}</Typography>
                    <HeardBar {...parts} />
                  </Column>
                ) : (
                  '…'
                )}
              </TableCell>
              <TableCell sx={FIGURE}>{tone ? rmsOf(tone).toFixed(1) : '…'}</TableCell>
              <TableCell sx={FIGURE}>{movesOf(state.session)}</TableCell>
              <TableCell sx={FIGURE}>{boostText(greatestBoostDb(state.session))}</TableCell>
              <TableCell sx={FIGURE}>{own ? figureText(own.mix.truePeakDbtp) : '…'}</TableCell>
              <TableCell sx={FIGURE}>{own ? figureText(own.mix.rangeLu) : '…'}</TableCell>
              <TableCell sx={FIGURE}>
                {own ? (1000 * own.latencySeconds).toFixed(0) : '…'}
              </TableCell>
              <TableCell sx={FIGURE}>{own ? signed(gains.get(state.id) ?? 0) : '…'}</TableCell>
              <TableCell sx={{ whiteSpace: 'nowrap' }}>
                <Actions state={state} />
              </TableCell>
            </TableRow>
          )
        })}
        {session.references.map((reference) => (
          <ReferenceRow key={reference.id} reference={reference} came={came} />
        ))}
      </TableBody>
    </Table>
  )
}

/** A reference, in place of the mix. */
function ReferenceRow({
  reference: { id, name },
  came,
}: {
  reference: Session['references'][number]
  came: StateFigures | undefined
}) {
  const hear = useHear()
  const heard = useHeard()
  const { references } = useAnalysis('references')
  const own = references.get(id)
  const isHeard = heard?.rendition.kind === 'reference' && heard.rendition.reference === id
  const tone =
    own && came ? toneBetween(came.mix, { ...came.mix, levels: own.levels, lufs: own.lufs }) : null
  return (
    <TableRow selected={isHeard}>
      <TableCell>
        <Typography component="span" sx={{ fontStyle: 'italic' }}>
          {name}
        </Typography>
      </TableCell>
      <TableCell>
        <ToggleButton
          value={id}
          sx={{ minWidth: 64, whiteSpace: 'nowrap' }}
          selected={isHeard}
          aria-label={`Listen to ${name}`}
          onClick={() => hear(isHeard ? null : { kind: 'reference', reference: id, range: null })}
        >
          {isHeard ? 'Heard' : 'Listen'}
        </ToggleButton>
      </TableCell>
      <TableCell>–</TableCell>
      <TableCell sx={FIGURE}>{tone ? rmsOf(tone).toFixed(1) : '…'}</TableCell>
      <TableCell colSpan={5} />
      <TableCell sx={FIGURE}>
        {isHeard && heard.gainDb !== null ? signed(heard.gainDb) : ''}
      </TableCell>
      <TableCell />
    </TableRow>
  )
}

const boostText = (db: number) => (db > 0 ? `+${db.toFixed(1)}` : '–')
const figureText = (v: number | null) => (v === null ? '–' : signed(v))

/** The numeral, and the name: of a variation it is typed here. */
function StateName({ state }: { state: ComparedState }) {
  const edit = useEdit()
  // As it is typed: the figures beside it belong to a state that has stood still.
  const name = useAppSelector(
    (root) => openSession(root).variations.list.find((v) => v.id === state.id)?.name ?? state.name,
  )
  const isVariation = state.id !== AS_IT_CAME && state.id !== WHAT_STANDS
  return (
    <span style={{ display: 'flex', gap: 8, alignItems: 'center', minWidth: 0 }}>
      {state.sign && <Badge letter={state.sign} lead={state.isWorkedIn} />}
      {isVariation ? (
        <OutlinedInput
          fullWidth
          value={name}
          title={state.isWorkedIn ? `${name}: in work` : name}
          inputProps={{
            'aria-label': `Name of variation ${state.sign}`,
            maxLength: 200,
            style: { textOverflow: 'ellipsis' },
          }}
          onChange={(e) =>
            edit(
              [{ kind: 'set-variation', variation: state.id, change: { name: e.target.value } }],
              { gesture: `name ${state.id}` },
            )
          }
        />
      ) : (
        <span title={state.id === AS_IT_CAME ? 'No chain, fader, pan, trim or group' : undefined}>
          {state.name}
        </span>
      )}
    </span>
  )
}

function Actions({ state }: { state: ComparedState }) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  if (state.id === AS_IT_CAME) return null
  if (state.isWorkedIn) return <Typography variant="body2">In work</Typography>
  return (
    <>
      <Button
        variant="text"
        aria-label={`Work in ${state.name}`}
        onClick={() => {
          edit([{ kind: 'work-in-variation', variation: state.id }])
          dispatch(interfaceActions.noticeShown(`Work goes on in ${state.sign} ${state.name}.`))
        }}
      >
        Work in it
      </Button>
      <IconAction
        label={`Remove ${state.name}`}
        icon={<RemoveIcon />}
        onClick={() => {
          edit([{ kind: 'remove-variation', variation: state.id }])
          dispatch(interfaceActions.noticeShown(`${state.name} removed.`, 'info', 'edit'))
        }}
      />
    </>
  )
}
