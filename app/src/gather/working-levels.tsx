import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import {
  leadOverRest,
  levelEdits,
  type ProposedLevel,
  proposeLevels,
  setLeadOverRest,
  WORKING_LUFS,
} from '@sober-prism/core/findings'
import { useMemo, useState } from 'react'
import { FigureField } from '../controls/figure-field'
import { Entry, Row } from '../controls/layout'
import { TickBox } from '../controls/tick-box'
import { formatDb, signed } from '../format'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeOf, useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'

/** Levels to work at: proposed, shown, and made in one step; and how far the lead stands over the rest. */
export function WorkingLevels() {
  const session = useSession()
  const { fresh } = useAnalysis('fresh')
  const loudness = useLoudness()
  const [open, setOpen] = useState(false)
  const edit = useEdit()
  const proposed = useMemo(() => proposeLevels(session, loudness), [session, loudness])
  const lead = leadOverRest(session, loudness)
  if (session.tracks.length === 0) return null
  return (
    <Entry as="section" aria-label="Working levels">
      <Row as="header" sx={{ justifyContent: 'space-between' }}>
        <Typography variant="h2">Working levels</Typography>
        {!open && (
          <Button disabled={!fresh || proposed.length === 0} onClick={() => setOpen(true)}>
            Propose levels
          </Button>
        )}
      </Row>
      {lead === null ? (
        <Typography variant="body2" color="textSecondary">
          {fresh
            ? 'Choose a lead in Survey to see how far it stands over the rest.'
            : 'Measuring how loud each track is …'}
        </Typography>
      ) : (
        <FigureField
          label="Lead over the rest"
          unit="LU"
          value={lead}
          limits={[-24, 24]}
          format={(v) => `${v > 0 ? '+' : ''}${signed(v)}`}
          step={(v, direction, fine) => v + direction * (fine ? 0.1 : 0.5)}
          onChange={(lu, gesture) => edit(setLeadOverRest(session, loudness, lu), { gesture })}
        />
      )}
      {open && <Proposal proposed={proposed} onClose={() => setOpen(false)} />}
    </Entry>
  )
}

/** Gated loudness of each track before its fader, where it was measured. */
function useLoudness(): ReadonlyMap<string, number> {
  const { tracks } = useAnalysis('tracks')
  return useMemo(
    () =>
      new Map([...tracks].flatMap(([id, t]) => (t.lufs === null ? [] : [[id, t.lufs] as const]))),
    [tracks],
  )
}

interface ProposalProps {
  readonly proposed: readonly ProposedLevel[]
  readonly onClose: () => void
}

/** What would be set, track by track, before it is. */
function Proposal({ proposed, onClose }: ProposalProps) {
  const session = useSession()
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const [balance, setBalance] = useState(true)
  const make = () => {
    const kept = proposed.map((p) => ({
      ...p,
      faderDb: balance ? p.faderDb : (nodeOf(session, p.track)?.faderDb ?? 0),
    }))
    edit(levelEdits(kept))
    dispatch(interfaceActions.noticeShown(`Levels of ${kept.length} tracks set.`, 'info', 'edit'))
    onClose()
  }
  return (
    <>
      <Typography variant="body2" color="textSecondary">
        Trims bring each track’s gated loudness to {signed(WORKING_LUFS, 0)} LUFS; faders make a
        rough balance by role, a place to begin.
      </Typography>
      <Table aria-label="Proposed levels">
        <TableHead>
          <TableRow>
            <TableCell>Track</TableCell>
            <TableCell align="right">LUFS</TableCell>
            <TableCell align="right">Trim</TableCell>
            <TableCell align="right">Fader</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {proposed.map(({ track, lufs, trimDb, faderDb }) => (
            <TableRow key={track}>
              <TableCell className="clip" sx={{ maxWidth: 110 }}>
                {nodeOf(session, track)?.name}
              </TableCell>
              <TableCell align="right">{signed(lufs)}</TableCell>
              <TableCell align="right">
                {trimDb > 0 ? '+' : ''}
                {signed(trimDb)}
              </TableCell>
              <TableCell align="right">
                {balance ? formatDb(faderDb) : formatDb(nodeOf(session, track)?.faderDb ?? 0)}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      <TickBox label="Faders by role too" checked={balance} onChange={setBalance} />
      <Row>
        <Button variant="contained" onClick={make}>
          Set these levels
        </Button>
        <Button variant="text" onClick={onClose}>
          Not now
        </Button>
      </Row>
    </>
  )
}
