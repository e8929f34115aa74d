import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { alignParams, type LineUp, type LineUpPicture } from '@sober-prism/core/findings'
import { newTreatment } from '@sober-prism/core/treatments'
import { errorSentence, isCancel } from '@sober-prism/engine'
import { useEffect, useRef, useState } from 'react'
import { Choice } from '../controls/choice'
import { signed } from '../format'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useRouting } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import styles from './fit.module.css'
import { LineUpPictures } from './line-up-picture'

interface Searched {
  /** The two that were compared. */
  readonly of: string
  readonly found: LineUp | null | 'busy'
  readonly picture: LineUpPicture | null
}

/** Lines the chosen track up with another that leads: two microphones, or two takes, of one source. */
export function LineUpTracks({ node }: { node: string }) {
  const session = useRouting()
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const others = session.tracks.filter((t) => t.id !== node)
  const [chosen, setChosen] = useState('')
  const lead = others.find((t) => t.id === chosen) ?? others[0]
  const [state, setState] = useState<Searched | null>(null)
  const running = useRef<AbortController | null>(null)
  useEffect(() => () => running.current?.abort(), [])
  if (!session.tracks.some((t) => t.id === node) || !lead) return null
  const of = `${lead.id} ${node}`
  const search = () => {
    running.current?.abort()
    const controller = new AbortController()
    running.current = controller
    setState({ of, found: 'busy', picture: null })
    desk
      .lineUp(lead.id, node, controller.signal)
      .then((result) => setState(result && { of, ...result }))
      .catch((error) => {
        setState(null)
        if (controller.signal.aborted || isCancel(error)) return
        dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
      })
  }
  const found = state?.of === of ? state.found : undefined
  const take = (lineUp: LineUp) => {
    const treatment = {
      ...newTreatment('align', crypto.randomUUID(), 'fit', alignParams(lineUp)),
      reason: `In line with ${lead.name}: the sum of the two gains ${lineUp.gainDb.toFixed(1)} dB`,
    }
    edit([{ kind: 'add-treatment', node, treatment, before: null }])
    dispatch(interfaceActions.treatmentChosen({ treatmentId: treatment.id, stage: 'fit' }))
    dispatch(interfaceActions.noticeShown('Lined up.', 'info', 'edit'))
  }
  const name = nodeName(session, node)
  return (
    <section className={styles.pair} aria-label="Line up">
      <Typography variant="h2">Line up</Typography>
      <Typography variant="body2" color="text.secondary">
        {name} with another microphone or take of the same source.
      </Typography>
      <div className={styles.row}>
        <Choice
          label="What leads"
          value={lead.id}
          options={others.map((t) => [t.id, `with ${t.letter} ${t.name}`] as const)}
          onChange={setChosen}
        />
        <Button disabled={found === 'busy'} onClick={search}>
          {found === 'busy' ? 'Searching …' : 'Search'}
        </Button>
      </div>
      <div aria-live="polite" className={styles.found}>
        {found === null && (
          <Typography>
            {name} and {lead.name} do not carry one source.
          </Typography>
        )}
        {found && found !== 'busy' && (
          <>
            <Typography>{wordsOf(found, name, session.sampleRateHz)}</Typography>
            {state?.picture && (
              <LineUpPictures
                picture={state.picture}
                lead={lead.name}
                name={name}
                rateHz={session.sampleRateHz}
              />
            )}
            {found.gainDb > 0.05 && (
              <Button sx={{ justifySelf: 'start' }} onClick={() => take(found)}>
                Line {name} up
              </Button>
            )}
          </>
        )}
      </div>
    </section>
  )
}

function wordsOf(
  { delayFrames, polarity, turnDeg, gainDb }: LineUp,
  name: string,
  rateHz: number,
): string {
  if (gainDb <= 0.05) return `${name} stands as well as it can.`
  const ms = (1000 * Math.abs(delayFrames)) / rateHz
  const parts = [
    Math.abs(delayFrames) < 0.01
      ? null
      : `${Math.abs(delayFrames).toFixed(2)} frames (${ms.toFixed(2)} ms) ${delayFrames < 0 ? 'earlier' : 'later'}`,
    polarity === -1 ? 'polarity turned' : null,
    Math.abs(turnDeg) < 0.5 ? null : `phase turned by ${signed(turnDeg)}°`,
  ].filter((p) => p !== null)
  return `${parts.join(', ')}: the sum of the two gains ${gainDb.toFixed(1)} dB.`
}
