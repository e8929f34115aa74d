import Button from '@mui/material/Button'
import FormControlLabel from '@mui/material/FormControlLabel'
import Radio from '@mui/material/Radio'
import RadioGroup from '@mui/material/RadioGroup'
import Typography from '@mui/material/Typography'
import { sessionFrames } from '@sober-prism/core/session'
import { Intro } from '../controls/intro'
import { Column, Fields, Row } from '../controls/layout'
import { Term } from '../controls/term'
import { TickBox } from '../controls/tick-box'
import { formatTime } from '../format'
import { useOpenSession, useSignal } from '../shell/desk-context'
import { Step } from '../shell/step'
import { useSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { ChainForOthers } from './chain-for-others'
import { deliverActions, selectChoice } from './deliver-slice'
import { MixFigures } from './mix-figures'
import { NormaliseChoice } from './normalise-choice'
import { RenderedFiles } from './rendered-files'

/** Render the mix and the treated tracks; save the session. */
export function Component() {
  return (
    <Step
      intro={
        <Intro step="deliver">Render the mix, tracks and stems, and export the session.</Intro>
      }
      evidenceName="What will be rendered"
      evidence={<MixFigures />}
    >
      <Column sx={{ gap: '30px', alignContent: 'start', p: '18px 24px', overflowY: 'auto' }}>
        <RenderForm />
        <ChainForOthers />
        <SaveSession />
      </Column>
    </Step>
  )
}

function RenderForm() {
  const session = useSession()
  const { desk, deliver } = useOpenSession()
  const work = useSignal(deliver.work)
  const files = useSignal(deliver.files)
  const choice = useAppSelector(selectChoice)
  const dispatch = useAppDispatch()
  const choose = (values: Partial<typeof choice>) => dispatch(deliverActions.chosen(values))
  const seconds = sessionFrames(session) / session.sampleRateHz
  const disabled = work !== null || session.tracks.length === 0
  const nothing = !choice.mix && !choice.tracks && !choice.groups
  return (
    <Column as="section" sx={{ gap: '12px', maxWidth: 640 }} aria-labelledby="render-title">
      <Typography variant="h2" id="render-title">
        Render
      </Typography>
      <Typography color="textSecondary" sx={{ maxWidth: '62ch' }}>
        The whole session, {formatTime(seconds)} at {session.sampleRateHz / 1000} kHz. Mutes apply;
        solo, lift and mono do not. Tracks: post-chain, pre-fader. Stems: post-fader. Several files
        become one zip.
      </Typography>
      <Fields disabled={disabled} sx={{ display: 'grid', gap: '6px', justifyItems: 'start' }}>
        <legend className="visually-hidden">What to render</legend>
        <TickBox
          label="The mix"
          checked={choice.mix}
          disabled={disabled}
          onChange={(mix) => choose({ mix })}
        />
        <TickBox
          label={`Each treated track (${session.tracks.length})`}
          checked={choice.tracks}
          disabled={disabled}
          onChange={(tracks) => choose({ tracks })}
        />
        {session.groups.length > 0 && (
          <TickBox
            label={
              <>
                Each group as a <Term word="stem">stem</Term> ({session.groups.length})
              </>
            }
            checked={choice.groups}
            disabled={disabled}
            onChange={(groups) => choose({ groups })}
          />
        )}
        <RadioGroup
          aria-label="Format"
          value={String(choice.bits)}
          onChange={(_, value) => choose({ bits: value === '24' ? 24 : '32f' })}
        >
          <FormControlLabel
            value="24"
            label="WAV, 24 bit, dithered"
            control={<Radio />}
            disabled={disabled}
          />
          <FormControlLabel
            value="32f"
            label="WAV, 32 bit float"
            control={<Radio />}
            disabled={disabled}
          />
        </RadioGroup>
        <NormaliseChoice disabled={disabled || !choice.mix} />
        <Button
          variant="contained"
          data-command="render"
          disabled={disabled || nothing}
          onClick={() => void deliver.render(session, choice, desk)}
        >
          Render
        </Button>
      </Fields>
      <RenderedFiles files={files} bits={choice.bits} />
    </Column>
  )
}

function SaveSession() {
  const session = useSession()
  const { deliver } = useOpenSession()
  const work = useSignal(deliver.work)
  return (
    <Column as="section" sx={{ gap: '12px', maxWidth: 640 }} aria-labelledby="save-title">
      <Typography variant="h2" id="save-title">
        Export the session
      </Typography>
      <Typography color="textSecondary" sx={{ maxWidth: '62ch' }}>
        One file that opens elsewhere: with audio, complete; without, for a browser that already has
        the same audio.
      </Typography>
      <Row>
        <Button disabled={work !== null} onClick={() => void deliver.save(session, true)}>
          Export with audio
        </Button>
        <Button disabled={work !== null} onClick={() => void deliver.save(session, false)}>
          Export without audio
        </Button>
      </Row>
    </Column>
  )
}
