import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import {
  type Candidate,
  candidatesBehind,
  cutNear,
  type Remainder,
} from '@sober-prism/core/findings'
import { chainOf, type Edit } from '@sober-prism/core/session'
import {
  newChainBand,
  newTreatment,
  respondChain,
  type Treatment,
} from '@sober-prism/core/treatments'
import { useMemo } from 'react'
import { Entry, EntryHead, Pane, Row } from '../controls/layout'
import { Term } from '../controls/term'
import { capital, formatHz, formatShare, signed } from '../format'
import { plumb } from '../plot/plumb'
import { useAnalysis } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, openSession, useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { LowCut } from './low-cut'
import { useSource } from './use-source'
import { VoiceMoves } from './voice-moves'

const KIND_NAMES: Readonly<Record<Candidate['kind'], string>> = {
  resonance: 'Resonance',
  rumble: 'Rumble',
  harshness: 'Harsh moments',
  hum: 'Hum',
}
const PLURALS: Readonly<Record<Candidate['kind'], string>> = {
  resonance: 'resonances',
  rumble: 'rumble',
  harshness: 'harsh moments',
  hum: 'hum',
}

/** What in the chosen track may not be its source, each with what it was taken for that by. */
export function CandidatesPane() {
  const session = useRouting()
  const node = useAppSelector(chosenNode)
  const { rings, work } = useAnalysis('rings', 'work')
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const track = session.tracks.find((t) => t.id === node)
  const source = useSource(node, false)
  const reading = track ? source : null
  const treatments = useAppSelector((root) => chainOf(openSession(root), node)?.treatments)
  const candidates = useMemo(() => {
    if (!reading || !treatments) return []
    const response = respondChain(treatments, session.sampleRateHz, 'mid')
    return candidatesBehind(reading, (hz) => response.db(hz))
  }, [reading, treatments, session.sampleRateHz])
  const isTrack = track !== undefined
  const ringsKnown = rings.has(node)
  const isVoice = track?.role === 'voice' || track?.role === 'speech'
  const make = (list: readonly Candidate[]) => {
    const edits = list.map((c) => editOf(c, node, treatments ?? []))
    edit(edits)
    dispatch(interfaceActions.stageChosen('clean'))
    const [first] = edits
    if (first.kind === 'add-band') dispatch(interfaceActions.bandChosen(first.chainBand.id))
    const words = list.length === 1 ? titleOf(list[0]) : `${list.length} ${PLURALS[list[0].kind]}`
    dispatch(interfaceActions.noticeShown(`Cut: ${words}.`, 'info', 'edit'))
  }
  if (!isTrack || !reading) {
    return (
      <Typography color="textSecondary" sx={{ p: '10px 14px' }}>
        {isTrack
          ? work
            ? 'Problems appear here once the track is measured.'
            : 'This track has not been measured.'
          : 'Select a track to see its possible problems.'}
      </Typography>
    )
  }
  return (
    <>
      <Pane>
        <Typography variant="h2">In {nodeName(session, node)}</Typography>
        {!ringsKnown && (
          <Typography color="textSecondary">
            {work ? 'Still looking for resonances.' : 'Resonances have not been looked for.'}
          </Typography>
        )}
        {ringsKnown && candidates.length === 0 && (
          <Typography color="textSecondary">
            No problems found. Hunting by ear may find some.
          </Typography>
        )}
        <AllOfAKind candidates={candidates} onMake={make} />
      </Pane>
      {candidates.map((c, i) => (
        <Entry
          key={`${c.kind} ${c.hz}`}
          data-pencil={!c.isFinding}
          onPointerEnter={() => plumb.set(c.hz)}
          onPointerLeave={() => plumb.set(null)}
        >
          <EntryHead>
            <Typography variant="h3">
              {c.kind === 'resonance' && i === 0 ? (
                <Term word="resonance">{titleOf(c)}</Term>
              ) : (
                titleOf(c)
              )}
            </Typography>
            <Typography variant="figure">{figureOf(c)}</Typography>
          </EntryHead>
          <Typography variant="body2" color="textSecondary">
            {c.remains
              ? remainsText(c.remains)
              : `${c.isFinding ? '' : 'Tentative: listen first. '}${whyText(c)}`}
          </Typography>
          <Row>
            <Button onClick={() => make([c])}>
              {actionOf(c, treatments !== undefined && cutNear(treatments, c) !== null)}
            </Button>
          </Row>
        </Entry>
      ))}
      <LowCut node={node} reading={reading} />
      {isVoice && <VoiceMoves node={node} reading={reading} />}
    </>
  )
}

function AllOfAKind({
  candidates,
  onMake,
}: {
  candidates: readonly Candidate[]
  onMake: (list: readonly Candidate[]) => void
}) {
  // What is too uncertain is listened to one by one.
  const sure = candidates.filter((c) => c.isFinding)
  const kinds = [...new Set(sure.map((c) => c.kind))]
  return kinds.map((kind) => {
    const list = sure.filter((c) => c.kind === kind)
    if (list.length < 2) return null
    return (
      <Button key={kind} sx={{ justifySelf: 'start' }} onClick={() => onMake(list)}>
        Cut all {PLURALS[kind]} ({list.length})
      </Button>
    )
  })
}

function titleOf({ kind, hz }: Candidate): string {
  return `${KIND_NAMES[kind]} ${kind === 'rumble' ? 'below' : 'at'} ${formatHz(hz)}`
}

/** What it was taken for that by. Of a resonance height is told from what stands at its place, and only roughly. */
function whyText({ kind, db, q, why }: Candidate): string {
  const height = `About ${db.toFixed(0)} dB high, Q about ${q.toFixed(0)}: ${why}.`
  return kind === 'resonance' ? height : `${capital(why)}.`
}

function figureOf({ db, likelihood }: Candidate): string {
  return likelihood === null ? `${signed(db)} dB` : `${formatShare(likelihood)} likely`
}

/** What a cut has left, and what would take it out. */
function remainsText({ ofDb, leftDb, cut, wouldLeaveDb }: Remainder): string {
  const would = wouldLeaveDb <= 2 ? 'take it out' : `leave ${wouldLeaveDb.toFixed(1)} dB`
  const [depth, q] = [Math.abs(cut.db).toFixed(1), cut.q.toFixed(0)]
  return `${leftDb.toFixed(1)} of ${ofDb.toFixed(1)} dB remain. ${depth} dB with Q ${q} at ${formatHz(cut.hz)} would ${would}.`
}

function actionOf({ kind, bands, drawn, remains }: Candidate, isCut: boolean): string {
  const [band] = bands
  if (remains && isCut) return `Change the cut to ${signed(remains.cut.db)} dB, Q ${remains.cut.q}`
  if (drawn) return `Dynamic cut up to ${Math.abs(drawn.rangeDb)} dB, Q ${drawn.q}`
  if (kind === 'hum') return `Add ${bands.length} ${bands.length === 1 ? 'notch' : 'notches'}`
  if (kind === 'rumble') return `Low cut at ${formatHz(band.hz)}`
  return `Cut by ${Math.abs(band.db)} dB, Q ${band.q}`
}

/** One band goes to the stage's equaliser; a series of needles, or a band that hears, is a treatment of its own. */
function editOf(candidate: Candidate, node: string, treatments: readonly Treatment[]): Edit {
  const made = candidate.remains && cutNear(treatments, candidate)
  if (candidate.remains && made) {
    const { hz, q, db } = candidate.remains.cut
    return { kind: 'set-band', node, ...made, change: { band: { hz, q, db } } }
  }
  const reason = `${titleOf(candidate)}: ${candidate.why}`
  if (candidate.drawn) {
    const made = newTreatment('follow', crypto.randomUUID(), 'clean')
    const treatment = { ...made, params: { ...made.params, bands: [candidate.drawn] }, reason }
    return { kind: 'add-treatment', node, treatment, before: null }
  }
  const chainBands = candidate.bands.map((band) => ({
    ...newChainBand(crypto.randomUUID(), band),
    reason,
  }))
  if (chainBands.length === 1) {
    const [chainBand] = chainBands
    const newTreatment = crypto.randomUUID()
    return { kind: 'add-band', node, stage: 'clean', treatment: null, newTreatment, chainBand }
  }
  const params = { phase: 'minimum' as const, bands: chainBands }
  const treatment = newTreatment('equaliser', crypto.randomUUID(), 'clean', params)
  return { kind: 'add-treatment', node, treatment: { ...treatment, reason }, before: null }
}
