import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { makeBands } from '@sober-prism/core/spectrum'
import { errorSentence, LoopedClip, type NullAnswer, type NullSide } from '@sober-prism/engine'
import { lazy, Suspense, useEffect, useMemo, useState } from 'react'
import { Choice } from '../controls/choice'
import { Column, Row } from '../controls/layout'
import { Running } from '../controls/running'
import { TickBox } from '../controls/tick-box'
import { useFilePicker } from '../controls/use-file-picker'
import { printed, signed } from '../format'
import { useDesk, useSignal } from '../shell/desk-context'
import { AUDIO_MISSING, useWork } from '../shell/use-asked'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch } from '../store/store'
import { DifferencePlot } from './difference-plot'
import type { ComparedState } from './use-states'

const NullOverTime = lazy(() => import('./null-over-time'))
const SIXTHS = makeBands('sixth')
/** What lies further down is nothing. */
const FLOOR_DB = -140
const FILE = 'file'
/** What is left is raised to this loudness where it is to be heard better. */
const RAISED_LUFS = -23
const MOST_RAISED_DB = 60

interface Brought {
  readonly name: string
  readonly channels: readonly Float32Array[]
}

/** What is left of one signal less another: over frequency, over time, and to be heard. */
export function NullTest({ states }: { states: readonly ComparedState[] }) {
  const session = useSession()
  const desk = useDesk()
  const [file, setFile] = useState<Brought | null>(null)
  const options = useMemo(() => sidesOf(session, states, file), [session, states, file])
  const [chosen, setChosen] = useState<readonly [string | null, string | null]>([null, null])
  const [align, setAlign] = useState(true)
  const [gain, setGain] = useState(true)
  const [answer, setAnswer] = useState<NullAnswer | null>(null)
  const work = useWork()
  const dispatch = useAppDispatch()
  const keyAt = (i: 0 | 1) =>
    options.find(([key]) => key === chosen[i])?.[0] ?? options[i === 0 ? 1 : 0]?.[0]
  const [first, second] = [keyAt(0), keyAt(1)]
  const begin = () =>
    work.run(async (running) => {
      const side = (key: string) => options.find(([k]) => k === key)?.[2] as NullSide
      const args = { first: side(first), second: side(second), align, gain }
      const now = await desk.ask.nullOf(args, running)
      setAnswer(now)
      if (!now) work.tell(AUDIO_MISSING)
    })
  const bring = async (given: File) => {
    try {
      setFile({ name: given.name, channels: await decoded(given, session.sampleRateHz) })
      setChosen(([a]) => [a, FILE])
    } catch {
      const said = `${given.name} cannot be read. Bring a WAV, AIFF, FLAC, MP3 or Ogg file.`
      dispatch(interfaceActions.noticeShown(said, 'warning'))
    }
  }
  const [openFile, field] = useFilePicker('audio/*', 'null-file', (f) => void bring(f))
  const list = options.map(([key, name]) => [key, name] as const)
  const choose = (i: 0 | 1) => (key: string) => {
    setAnswer(null)
    setChosen(i === 0 ? [key, second] : [first, key])
  }
  return (
    <Column sx={{ gap: '10px', alignContent: 'start', p: '12px 16px', overflowY: 'auto' }}>
      <Row>
        <Choice label="First" value={first} options={list} onChange={choose(0)} />
        <Typography>less</Typography>
        <Choice label="Second" value={second} options={list} onChange={choose(1)} />
        <Button variant="text" onClick={openFile}>
          Bring a file…
        </Button>
        {field}
      </Row>
      <Row>
        <TickBox label="Line up" checked={align} onChange={setAlign} />
        <TickBox label="Match gain" checked={gain} onChange={setGain} />
        <Button variant="contained" disabled={work.busy !== null} onClick={() => void begin()}>
          Test
        </Button>
        {work.busy !== null && (
          <Running what="Taking one from the other" share={work.busy} onCancel={work.stop} />
        )}
      </Row>
      {work.trouble && <Typography color="warning">{work.trouble}</Typography>}
      {answer && <NullResult answer={answer} />}
    </Column>
  )
}

function NullResult({ answer }: { answer: NullAnswer }) {
  const { reading, verdict, residueLufs } = answer
  const perSixth = useMemo(
    () =>
      SIXTHS.map(({ hz }) => {
        const near = reading.bands.find((b) => Math.abs(Math.log2(b.hz / hz)) < 0.17)
        return near?.db == null ? null : Math.max(FLOOR_DB, near.db)
      }),
    [reading],
  )
  const db = (value: number | null) => (value === null ? 'nothing' : `${signed(value)} dB`)
  return (
    <>
      <Typography variant="h3" role="status">
        {printed(verdict)}
      </Typography>
      <Typography variant="body2" color="textSecondary">
        What is left: {db(reading.nullDb)} against the first,{' '}
        {residueLufs === null ? 'too quiet to have a loudness' : `${signed(residueLufs)} LUFS`}. The
        second was moved {printed(reading.delayFrames.toFixed(2))} samples later and raised by{' '}
        {signed(reading.gainDb, 2)} dB.
      </Typography>
      <HearResidue answer={answer} />
      <Box sx={{ height: 210, display: 'grid' }}>
        <DifferencePlot
          difference={perSixth}
          title="What is left"
          note="against the first, in thirds of an octave"
          label="What is left by frequency"
        />
      </Box>
      <Box sx={{ height: 150, minWidth: 0 }}>
        <Suspense>
          <NullOverTime overTime={reading.overTime} />
        </Suspense>
      </Box>
    </>
  )
}

/** Plays what is left over and over, as it is or raised. */
function HearResidue({ answer: { residue, residueLufs } }: { answer: NullAnswer }) {
  const desk = useDesk()
  const session = useSession()
  const [clip] = useState(() => new LoopedClip())
  const playing = useSignal(clip.playing)
  const [raised, setRaised] = useState(false)
  const dispatch = useAppDispatch()
  // biome-ignore lint/correctness/useExhaustiveDependencies: another residue ends the one that plays.
  useEffect(() => () => clip.stop(), [clip, residue])
  const gainDb =
    residueLufs === null ? 0 : Math.max(0, Math.min(MOST_RAISED_DB, RAISED_LUFS - residueLufs))
  const play = async (isRaised: boolean) => {
    desk.player.pause()
    await clip
      .play(residue, session.sampleRateHz, isRaised ? gainDb : 0)
      .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  }
  return (
    <Row>
      <ToggleButton
        value="residue"
        selected={playing}
        disabled={residueLufs === null}
        onClick={() => (playing ? clip.stop() : void play(raised))}
      >
        Listen to what is left
      </ToggleButton>
      <TickBox
        label={`Raise by ${signed(gainDb)} dB`}
        checked={raised}
        disabled={residueLufs === null}
        onChange={(on) => {
          setRaised(on)
          if (playing) void play(on)
        }}
      />
    </Row>
  )
}

type Option = readonly [key: string, name: string, side: NullSide]

/** All that can be taken from each other. */
function sidesOf(
  session: ReturnType<typeof useSession>,
  states: readonly ComparedState[],
  file: Brought | null,
): readonly Option[] {
  const mixes = states.map(({ id, sign, name, session: state }): Option => {
    const called = sign ? `Mix ${sign} ${name}` : `Mix ${name.toLowerCase()}`
    return [`state ${id}`, called, { kind: 'state', session: state }]
  })
  const nodes = [...session.tracks, ...session.groups].flatMap(({ id, name }): Option[] => [
    [`chain ${id}`, `${name}, treated`, { kind: 'node', node: id, tap: 'chain' }],
    [`recorded ${id}`, `${name}, untreated`, { kind: 'node', node: id, tap: 'recorded' }],
  ])
  const references = session.references.map(
    ({ id, name }): Option => [
      `reference ${id}`,
      `Reference ${name}`,
      { kind: 'reference', reference: id },
    ],
  )
  const brought: Option[] = file
    ? [[FILE, `File ${file.name}`, { kind: 'file', channels: file.channels }]]
    : []
  return [...mixes, ...nodes, ...references, ...brought]
}

/** A file at the session's rate, by the browser's own decoders. */
async function decoded(file: File, sampleRateHz: number): Promise<Float32Array[]> {
  const context = new OfflineAudioContext(2, 1, sampleRateHz)
  const buffer = await context.decodeAudioData(await file.arrayBuffer())
  return Array.from({ length: Math.min(2, buffer.numberOfChannels) }, (_, c) =>
    buffer.getChannelData(c).slice(),
  )
}
