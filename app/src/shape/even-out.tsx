import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { newTreatment } from '@sober-prism/core/treatments'
import type { RangeReading } from '@sober-prism/engine'
import { useState } from 'react'
import { Row } from '../controls/layout'
import { Running } from '../controls/running'
import { signed } from '../format'
import { DbField } from '../sheet/editors/figures'
import { useDesk } from '../shell/desk-context'
import { AUDIO_MISSING, useAsked, useWork } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { nodeName, useSession } from '../store/selectors'
import { useSettledSession } from '../store/settled'
import { useAppDispatch, useEdit } from '../store/store'
import { Section } from './section'

/** What stands beside the question how much a leveller should take. */
function rangeText({ rangeLu, peakOverDb }: RangeReading): string {
  const range = rangeLu === null ? null : `Loudness range ${rangeLu.toFixed(1)} LU`
  const peak = peakOverDb === null ? null : `peaks ${peakOverDb.toFixed(1)} dB above its loudness`
  return range && peak ? `${range}, ${peak}.` : 'Too short or too quiet to tell its loudness range.'
}

/** A leveller that takes just so much at the loudest moment of the passage. */
export function EvenOut({ node }: { node: string }) {
  const session = useSession()
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const [atMostDb, setAtMostDb] = useState(4)
  const { busy, trouble, tell, run, stop } = useWork()
  const name = nodeName(session, node)
  // How uneven it is stands before what would even it out. Of a mix it would be rendered anew after each move.
  const settled = useSettledSession()
  const isTrack = settled.tracks.some((t) => t.id === node)
  const { answer: reading } = useAsked('range', isTrack ? { node } : null, {
    subject: node,
    depends: [settled],
    tell: 'here',
  })
  const propose = () =>
    run(async (options) => {
      const settings = { ...newTreatment('leveller', 'usual', 'shape').params, atMostDb }
      const found = await desk.ask.levelling({ node, settings }, options)
      if (!found) return tell(AUDIO_MISSING)
      const { thresholdDb, reading } = found
      if (thresholdDb === null || !reading) {
        return tell(`${name} is too quiet here for ${atMostDb} dB of reduction.`)
      }
      // What it takes of the loudness it gives back.
      const outputDb = Math.round(-10 * reading.loudnessDb) / 10
      const params = { ...settings, thresholdDb, outputDb }
      const treatment = {
        ...newTreatment('leveller', crypto.randomUUID(), 'shape', params),
        reason: `Max reduction ${atMostDb} dB; average ${signed(reading.meanDb)} dB`,
      }
      edit([{ kind: 'add-treatment', node, treatment, before: null }])
      dispatch(
        interfaceActions.treatmentChosen({ node, treatmentId: treatment.id, stage: 'shape' }),
      )
      dispatch(interfaceActions.noticeShown(`Leveller added to ${name}.`, 'info', 'edit'))
    })
  return (
    <Section
      of="leveller"
      title="Leveller"
      word="Leveller"
      says={reading ? rangeText(reading) : 'Make it more even'}
    >
      {reading && <Typography variant="body2">{rangeText(reading)}</Typography>}
      <Typography variant="body2" color="textSecondary">
        Gentle levelling; the threshold is found from the passage, and the loudness is kept.
      </Typography>
      <Row>
        <DbField
          label="Max reduction"
          value={atMostDb}
          limits={[0.5, 12]}
          onChange={(v) => setAtMostDb(v)}
        />
        <Button disabled={busy !== null} data-command="leveller" onClick={() => void propose()}>
          Add leveller
        </Button>
      </Row>
      {busy !== null && (
        <Running what={`Finding the threshold for ${name}`} share={busy} onCancel={stop} />
      )}
      <div aria-live="polite">{trouble && <Typography color="warning">{trouble}</Typography>}</div>
    </Section>
  )
}
