import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { writeWav } from '@sober-prism/core/audio'
import { chainOf } from '@sober-prism/core/session'
import type { ChainFor, ChainForm } from '@sober-prism/engine'
import { useState } from 'react'
import { Choice } from '../controls/choice'
import { Column, Row } from '../controls/layout'
import { capital, printed, signed } from '../format'
import { download } from '../jobs/download'
import { useAsked } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeName, useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'

const FORMS: readonly (readonly [ChainForm, string])[] = [
  ['text', 'List of bands'],
  ['csv', 'Frequency response (CSV)'],
  ['ir', 'Impulse response (WAV)'],
  ['ffmpeg', 'Command line for ffmpeg'],
  ['sox', 'Command line for sox'],
  ['json', 'Chain file (JSON)'],
]
const ENDINGS: Readonly<Record<ChainForm, string>> = {
  text: 'txt',
  csv: 'csv',
  ir: 'wav',
  ffmpeg: 'sh',
  sox: 'sh',
  json: 'chain.json',
}
/** So much of a long text is shown. */
const MOST_SHOWN = 1400

/** The chain of the chosen node in forms that other programs take. */
export function ChainForOthers() {
  const session = useSession()
  const node = useAppSelector(chosenNode)
  const [form, setForm] = useState<ChainForm>('text')
  const chain = chainOf(session, node)
  const isEmpty = !chain || chain.treatments.every((t) => !t.on)
  const { answer, share, trouble } = useAsked('chainFor', isEmpty ? null : { node, form }, {
    subject: `${node} ${form}`,
    depends: [chain],
    tell: 'here',
  })
  const name = node === 'mix' ? 'the mix' : nodeName(session, node)
  return (
    <Column as="section" sx={{ gap: '12px', maxWidth: 640 }} aria-labelledby="chain-title">
      <Typography variant="h2" id="chain-title">
        Chain for other programs
      </Typography>
      <Typography color="textSecondary" sx={{ maxWidth: '62ch' }}>
        {isEmpty
          ? `The chain of ${name} is empty. Select a track, a group or the mix that is treated.`
          : `What is done to ${name}, at ${session.sampleRateHz / 1000} kHz.`}
      </Typography>
      {!isEmpty && (
        <>
          <Row>
            <Choice label="Form" value={form} options={FORMS} onChange={setForm} />
            {answer && <Actions answer={answer} form={form} name={name} />}
            {share !== null && !answer && <Typography role="status">Writing…</Typography>}
          </Row>
          {trouble && <Typography color="warning">{trouble}</Typography>}
          {answer && <Told answer={answer} form={form} />}
        </>
      )}
    </Column>
  )
}

function Actions({ answer, form, name }: { answer: ChainFor; form: ChainForm; name: string }) {
  const dispatch = useAppDispatch()
  const say = (text: string, kind: 'info' | 'warning') =>
    dispatch(interfaceActions.noticeShown(text, kind))
  const save = () => {
    const content =
      answer.kind === 'impulse'
        ? writeWav(answer.clip, '32f')
        : new TextEncoder().encode(answer.text)
    download(`${capital(name)}.${ENDINGS[form]}`, new Blob([content as BlobPart]))
  }
  const copy = () => {
    if (answer.kind !== 'text') return
    navigator.clipboard
      .writeText(answer.text)
      .then(() => say('Copied.', 'info'))
      .catch(() => say('The browser did not allow copying. Download it instead.', 'warning'))
  }
  return (
    <>
      <Button onClick={save}>Download</Button>
      {answer.kind === 'text' && (
        <Button variant="text" onClick={copy}>
          Copy
        </Button>
      )}
    </>
  )
}

/** The text, how near it comes, and what it leaves out. */
function Told({ answer, form }: { answer: ChainFor; form: ChainForm }) {
  return (
    <>
      {answer.kind === 'impulse' ? (
        <Typography role="status">
          {answer.clip.frames} samples, {answer.latencyFrames} before the impulse; null against the
          chain {signed(answer.nullDb, 0)} dB.
        </Typography>
      ) : (
        <>
          {answer.worstDeviationDb !== null && (form === 'ffmpeg' || form === 'sox') && (
            <Typography role="status">
              {answer.worstDeviationDb < 0.001
                ? 'Less than 0.001'
                : `At most ${answer.worstDeviationDb.toFixed(3)}`}{' '}
              dB from the chain between 20 Hz and 18 kHz, for files at the session’s rate.
            </Typography>
          )}
          <Typography
            component="pre"
            variant="figure"
            aria-label="Text"
            tabIndex={0}
            sx={{
              m: 0,
              p: '8px 10px',
              maxHeight: 220,
              overflow: 'auto',
              whiteSpace: form === 'ffmpeg' || form === 'sox' ? 'pre-wrap' : 'pre',
              overflowWrap: 'anywhere',
              border: 1,
              borderColor: 'divider',
            }}
          >
            {answer.text.slice(0, MOST_SHOWN)}
            {answer.text.length > MOST_SHOWN ? '…' : ''}
          </Typography>
        </>
      )}
      {answer.notSaid.length > 0 && (
        <div>
          <Typography>Not in it:</Typography>
          <ul style={{ margin: 0, paddingLeft: 20 }}>
            {answer.notSaid.map((sentence) => (
              <li key={sentence}>{printed(sentence)}</li>
            ))}
          </ul>
        </div>
      )}
    </>
  )
}
