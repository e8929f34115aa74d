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
import type { Session } from '@sober-prism/core/session'
import { useMemo, useState } from 'react'
import { FigureField } from '../controls/figure-field'
import { Entry, Row } from '../controls/layout'
import { Term } from '../controls/term'
import { TickBox } from '../controls/tick-box'
import { formatDb, listOf, signed } from '../format'
import { isOnItsWay } from '../jobs/import-jobs'
import { useOpenSession, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeOf, useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import { useLoudness } from './use-loudness'

/** Levels to work at: proposed, shown, and made in one step; and how far the lead stands over the rest. */
export function WorkingLevels() {
  const session = useSession()
  const { loudness, waiting } = useLoudness()
  const coming = useSignal(useOpenSession().imports.files).filter(isOnItsWay).length
  const [open, setOpen] = useState(false)
  const edit = useEdit()
  const proposed = useMemo(() => proposeLevels(session, loudness), [session, loudness])
  const lead = leadOverRest(session, loudness)
  if (session.tracks.length === 0) return null
  return (
    <Entry as="section" aria-label="Working levels">
      <Row as="header" sx={{ justifyContent: 'space-between' }}>
        <Typography variant="h2">
          <Term word="working levels">Working levels</Term>
        </Typography>
        {!open && (
          <Button
            disabled={coming > 0 || waiting > 0 || proposed.length === 0}
            data-command="propose-levels"
            onClick={() => setOpen(true)}
          >
            Propose levels
          </Button>
        )}
      </Row>
      <Typography variant="body2" color="textSecondary" aria-live="polite">
        {waitSentence(coming, waiting, session.tracks.length) ??
          (proposed.length === 0
            ? 'No track has sound in the passage to set levels by.'
            : leadsSentence(session))}
      </Typography>
      {lead !== null && waiting === 0 && (
        <FigureField
          label="Leads above the rest"
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

/** What is waited for, if anything: files on their way, then the loudness of tracks. */
function waitSentence(coming: number, waiting: number, count: number): string | null {
  if (coming > 0) return `Levels can be proposed when all files are in: ${coming} to go.`
  return waiting > 0 ? `Measuring loudness: ${count - waiting} of ${count} tracks …` : null
}

/** Which tracks levels are set around. */
function leadsSentence({ tracks, leadIds }: Session): string {
  const names = tracks.filter((t) => leadIds.includes(t.id)).map((t) => t.name)
  if (names.length === 0) {
    return 'No lead selected: tick Lead in the table for the tracks that must be heard.'
  }
  return `${names.length === 1 ? 'Lead' : 'Leads'}: ${listOf(names)}.`
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
    const what =
      kept.length === 1 ? 'Levels of 1 track set.' : `Levels of ${kept.length} tracks set.`
    dispatch(interfaceActions.noticeShown(what, 'info', 'edit'))
    onClose()
  }
  return (
    <>
      <Typography variant="body2" color="textSecondary">
        Trim brings each track to {signed(WORKING_LUFS, 0)} LUFS ahead of its chain; faders set a
        rough balance by role{session.leadIds.length > 0 ? ', leads at 0 dB' : ''}.
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
      <TickBox label="Set faders by role too" checked={balance} onChange={setBalance} />
      <Row>
        <Button variant="contained" onClick={make}>
          Set levels
        </Button>
        <Button variant="text" onClick={onClose}>
          Cancel
        </Button>
      </Row>
    </>
  )
}
