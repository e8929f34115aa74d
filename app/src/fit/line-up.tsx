import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import {
  alignParams,
  type LineUp,
  type LineUpPicture,
  WHOLE_LINE_UP,
} from '@sober-prism/core/findings'
import type { Edit } from '@sober-prism/core/session'
import { newTreatment } from '@sober-prism/core/treatments'
import { useState } from 'react'
import { shallowEqual } from 'react-redux'
import { Choice } from '../controls/choice'
import { Column, Entry, Row } from '../controls/layout'
import { signed } from '../format'
import { HzField } from '../sheet/editors/figures'
import { useDesk } from '../shell/desk-context'
import { useWork } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { chosenNodes, useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { LineUpPictures } from './line-up-picture'

/** What was found for one track that is to be lined up. */
interface Found {
  readonly lineUp: LineUp | null
  readonly picture: LineUpPicture | null
}

interface Searched {
  /** The tracks that were compared, the lead first. */
  readonly of: string
  readonly found: ReadonlyMap<string, Found>
}

/** Less than this is no gain worth a treatment, in dB. */
const LEAST_GAIN_DB = 0.05

/** Lines the chosen tracks up with another that leads: microphones of a kit, or takes of one source. */
export function LineUpTracks({ node }: { node: string }) {
  const session = useRouting()
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const selected = useAppSelector(chosenNodes, shallowEqual)
  const [chosen, setChosen] = useState('')
  const [range, setRange] = useState(WHOLE_LINE_UP)
  const [state, setState] = useState<Searched | null>(null)
  const { busy: share, trouble, run } = useWork()
  const others = session.tracks.filter((t) => t.id !== node)
  const lead = others.find((t) => t.id === chosen) ?? others[0]
  if (!session.tracks.some((t) => t.id === node) || !lead) return null
  const tracks = session.tracks.filter((t) => t.id !== lead.id && selected.includes(t.id))
  const of = [lead.id, ...tracks.map((t) => t.id), range.fromHz, range.toHz].join(' ')
  const search = () =>
    run(async (options) => {
      const found = new Map<string, Found>()
      setState({ of, found })
      for (const { id } of tracks) {
        const result = await desk.ask.lineUp({ lead: lead.id, other: id, range }, options)
        if (result) found.set(id, result)
        setState({ of, found: new Map(found) })
      }
    })
  const shown = state?.of === of ? state : null
  const busy = share !== null && shown !== null
  const take = (ids: readonly string[]) => {
    const edits = ids.flatMap((id): Edit[] => {
      const lineUp = shown?.found.get(id)?.lineUp
      if (!lineUp) return []
      const treatment = {
        ...newTreatment('align', crypto.randomUUID(), 'fit', alignParams(lineUp)),
        reason: `Aligned with ${lead.name}: their sum gains ${lineUp.gainDb.toFixed(1)} dB`,
      }
      return [{ kind: 'add-treatment', node: id, treatment, before: null }]
    })
    edit(edits)
    const [first] = edits
    if (first?.kind === 'add-treatment' && first.node === node) {
      const { id } = first.treatment
      dispatch(interfaceActions.treatmentChosen({ treatmentId: id, stage: 'fit' }))
    }
    dispatch(interfaceActions.noticeShown('Aligned.', 'info', 'edit'))
  }
  const worthIt = tracks.map((t) => t.id).filter((id) => gains(shown?.found.get(id)))
  const names = tracks.map((t) => t.name).join(', ')
  return (
    <Entry as="section" aria-label="Align">
      <Typography variant="h2">Align</Typography>
      <Typography variant="body2" color="textSecondary">
        Align {names} with another microphone or take of the same source. Select several tracks to
        align them all with one.
      </Typography>
      <Row>
        <Choice
          label="Align with"
          value={lead.id}
          options={others.map((t) => [t.id, `${t.letter} ${t.name}`] as const)}
          onChange={setChosen}
        />
        <HzField
          label="From"
          value={range.fromHz}
          limits={[WHOLE_LINE_UP.fromHz, range.toHz / 1.5]}
          onChange={(fromHz) => setRange({ ...range, fromHz })}
        />
        <HzField
          label="To"
          value={range.toHz}
          limits={[range.fromHz * 1.5, WHOLE_LINE_UP.toHz]}
          onChange={(toHz) => setRange({ ...range, toHz })}
        />
        <Button disabled={busy} data-command="align" onClick={() => void search()}>
          {busy ? 'Searching…' : 'Search'}
        </Button>
      </Row>
      <Column aria-live="polite" sx={{ minHeight: '24px' }}>
        {trouble && <Typography color="warning">{trouble}</Typography>}
        {tracks.map(({ id, name }) => {
          const found = shown?.found.get(id)
          return (
            found && (
              <FoundLine
                key={id}
                {...found}
                lead={lead.name}
                name={name}
                rateHz={session.sampleRateHz}
                onTake={() => take([id])}
              />
            )
          )
        })}
        {worthIt.length > 1 && !busy && (
          <Button sx={{ justifySelf: 'start' }} onClick={() => take(worthIt)}>
            Align all {worthIt.length}
          </Button>
        )}
      </Column>
    </Entry>
  )
}

function gains(found: Found | undefined): boolean {
  return (found?.lineUp?.gainDb ?? 0) > LEAST_GAIN_DB
}

interface FoundLineProps extends Found {
  readonly lead: string
  readonly name: string
  readonly rateHz: number
  readonly onTake: () => void
}

/** What lines one track up, and what that does. */
function FoundLine({ lineUp, picture, lead, name, rateHz, onTake }: FoundLineProps) {
  if (!lineUp) {
    return (
      <Typography>
        {name} and {lead} are not the same source.
      </Typography>
    )
  }
  return (
    <>
      <Typography>
        {name}: {wordsOf(lineUp, rateHz)}
      </Typography>
      {picture && <LineUpPictures picture={picture} lead={lead} name={name} rateHz={rateHz} />}
      {lineUp.gainDb > LEAST_GAIN_DB && (
        <Button sx={{ justifySelf: 'start' }} onClick={onTake}>
          Align {name}
        </Button>
      )}
    </>
  )
}

function wordsOf({ delayFrames, polarity, turnDeg, gainDb }: LineUp, rateHz: number): string {
  if (gainDb <= LEAST_GAIN_DB) return 'already aligned.'
  const ms = (1000 * Math.abs(delayFrames)) / rateHz
  const parts = [
    Math.abs(delayFrames) < 0.01
      ? null
      : `${Math.abs(delayFrames).toFixed(2)} samples (${ms.toFixed(2)} ms) ${delayFrames < 0 ? 'earlier' : 'later'}`,
    polarity === -1 ? 'polarity inverted' : null,
    Math.abs(turnDeg) < 0.5 ? null : `phase rotated ${signed(turnDeg)}°`,
  ].filter((p) => p !== null)
  return `${parts.join(', ')}: their sum gains ${gainDb.toFixed(1)} dB.`
}
