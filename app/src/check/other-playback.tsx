import RemoveIcon from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { describedDb, thirdsOf } from '@sober-prism/core/playback'
import { makeBands } from '@sober-prism/core/spectrum'
import { errorSentence, type PlaybackChoice, playbackKey } from '@sober-prism/engine'
import { useMemo, useState } from 'react'
import { IconAction } from '../controls/icon-action'
import { Pane, Row } from '../controls/layout'
import { capital, printed } from '../format'
import { download } from '../jobs/download'
import { useDesk, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch } from '../store/store'
import { dropImpulse, hearThrough, playbackTitle, usePlaybacks } from '../transport/playbacks'
import { DifferencePlot } from './difference-plot'

const SIXTHS = makeBands('sixth')
const FLOOR_DB = -36

interface OtherPlaybackProps {
  /** The one that is looked at. */
  readonly choice: PlaybackChoice
  readonly onShow: (key: string) => void
}

/** The playback that is looked at: the one that was chosen, else the one that is heard. */
export function usePlaybackShown(): OtherPlaybackProps {
  const now = useSignal(useDesk().elsewhere.state)
  const choices = usePlaybacks()
  const [shown, setShown] = useState<string | null>(null)
  const key = shown ?? (now && playbackKey(now.choice))
  const choice = choices.find((c) => playbackKey(c) === key) ?? choices[0]
  return { choice, onShow: setShown }
}

/** Other playbacks: each heard at a press, what it does to sound, and a picture of it. */
export function OtherPlayback({ choice, onShow }: OtherPlaybackProps) {
  const desk = useDesk()
  const session = useSession()
  const now = useSignal(desk.elsewhere.state)
  const choices = usePlaybacks()
  const heardKey = now && playbackKey(now.choice)
  const dispatch = useAppDispatch()
  const warn = (error: unknown) =>
    dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
  const { sampleRateHz, listeningDbSpl } = session
  const response = useMemo(() => {
    const db = responseDb(choice, sampleRateHz, listeningDbSpl)
    // What lies further down is as good as silent.
    return SIXTHS.map(({ hz }) => (db(hz) > FLOOR_DB ? db(hz) : null))
  }, [choice, sampleRateHz, listeningDbSpl])
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(200px, 270px) minmax(0, 1fr)',
        minHeight: 0,
      }}
    >
      <Box
        component="ul"
        aria-label="Playbacks"
        sx={{ m: 0, p: '6px 0', overflowY: 'auto', borderRight: 1, borderColor: 'divider' }}
      >
        {choices.map((each) => {
          const key = playbackKey(each)
          return (
            <Box
              component="li"
              key={key}
              data-open={each === choice}
              sx={{
                display: 'flex',
                alignItems: 'center',
                gap: '4px',
                p: '3px 8px 3px 10px',
                '&[data-open="true"]': { bgcolor: 'action.selected' },
              }}
            >
              <Button
                variant="text"
                aria-pressed={each === choice}
                sx={{
                  flex: 1,
                  minWidth: 0,
                  justifyContent: 'flex-start',
                  textAlign: 'left',
                  whiteSpace: 'normal',
                  lineHeight: 1.25,
                }}
                onClick={() => onShow(key)}
              >
                {playbackTitle(each)}
              </Button>
              <ToggleButton
                value="hear"
                selected={heardKey === key}
                aria-label={`Listen: ${playbackTitle(each)}`}
                onClick={() => {
                  onShow(key)
                  hearThrough(desk, each)
                }}
              >
                Listen
              </ToggleButton>
              {each.kind === 'recorded' && (
                <IconAction
                  label={`Remove ${each.name}`}
                  icon={<RemoveIcon fontSize="small" />}
                  onClick={() => void dropImpulse(desk, each).catch(warn)}
                />
              )}
            </Box>
          )
        })}
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateRows: 'auto minmax(150px, 320px)',
          alignContent: 'start',
          minHeight: 0,
          minWidth: 0,
        }}
      >
        <Pane>
          <Typography>
            {choice.kind === 'described'
              ? choice.playback.about
              : 'An impulse response of your own.'}
          </Typography>
          {choice.kind === 'described' && (
            <Row>
              <Typography variant="body2" color="textSecondary">
                {elementsOf(choice)} It stands for a kind of playback and was measured on none.
              </Typography>
              <Button
                variant="text"
                onClick={() =>
                  download(
                    `${choice.playback.name}.json`,
                    new Blob([`${JSON.stringify(choice.playback, null, 2)}\n`]),
                  )
                }
              >
                Save its description
              </Button>
            </Row>
          )}
          {now?.trouble && <Typography color="warning">{now.trouble}</Typography>}
        </Pane>
        <DifferencePlot
          difference={response}
          title={playbackTitle(choice)}
          note={
            choice.kind === 'described'
              ? 'what it does to a sound in the middle'
              : 'its left channel, in thirds of an octave'
          }
          label="Response"
        />
      </Box>
    </Box>
  )
}

/** What a playback does to a sound in the middle, for the picture. */
function responseDb(
  choice: PlaybackChoice,
  rateHz: number,
  hereDbSpl: number,
): (hz: number) => number {
  if (choice.kind === 'described') return describedDb(choice.playback, rateHz, hereDbSpl)
  const points = thirdsOf(choice.channels[0], choice.sampleRateHz)
  const top = Math.max(...points.map((p) => p.db))
  return (hz) => {
    const at = points.findIndex((p) => p.hz >= hz)
    if (at <= 0) return points[at < 0 ? points.length - 1 : 0].db - top
    const [a, b] = [points[at - 1], points[at]]
    const share = Math.log(hz / a.hz) / Math.log(b.hz / a.hz)
    return a.db + share * (b.db - a.db) - top
  }
}

/** What besides its response a playback does, in words. */
function elementsOf({ playback }: Extract<PlaybackChoice, { kind: 'described' }>): string {
  const { sides, crosstalk, room, limiter, noise, dbSpl } = playback
  const width = sides === 0 ? 'mono' : sides < 1 || crosstalk ? 'narrower than stereo' : ''
  const all = [
    width,
    room ? `with a room of ${room.decaySeconds} s` : '',
    limiter ? `peaks held ${limiter.overLoudnessDb} dB over its loudness` : '',
    noise ? `noise ${printed(`${noise.lu}`)} LU under it` : '',
    dbSpl === null ? '' : `heard at ${dbSpl} dB SPL`,
  ].filter(Boolean)
  return `${capital(all.join(', ') || 'stereo as it is')}.`
}
