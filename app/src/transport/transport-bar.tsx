import { sessionFrames } from '@sober-prism/core/session'
import { errorSentence, type HeardRendition, type Lateness } from '@sober-prism/engine'
import { useEffect, useRef, useSyncExternalStore } from 'react'
import { formatTime, signed } from '../format'
import { useAnalysis, useDesk, useHeard, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useEdit, useRoot, useSend } from '../store/store'
import { Overview } from './overview'

/** Time along the bottom: play, the overview with the passage, meters and ways of listening. */
export function TransportBar() {
  const session = useSession()
  const desk = useDesk()
  const send = useSend()
  const mono = useRoot((root) => root.interface.mono)
  const edit = useEdit()
  const heard = useHeard()
  const missed = useSyncExternalStore(desk.player.missed.watch, desk.player.missed.read)
  const late = useSignal(desk.player.late)
  const tell = (error: unknown) =>
    send(interfaceActions.noticeShown(errorSentence(error), 'warning'))
  const rate = session.sampleRateHz
  const { passage } = session
  const lifted = [...session.tracks, ...session.groups].filter((t) => t.lift || t.solo)
  const hasSound = sessionFrames(session) > 0
  return (
    <footer className="transport">
      <div className="play">
        <PlayButton disabled={!hasSound} onError={tell} />
        <Clock />
        <label className="switch">
          <input
            type="checkbox"
            checked={session.loop}
            onChange={(e) => edit([{ kind: 'set-session', change: { loop: e.target.checked } }])}
          />
          Loop
        </label>
        <span className="passage-text">
          {passage
            ? `passage ${formatTime(passage.fromFrame / rate)} to ${formatTime(passage.toFrame / rate)}`
            : 'passage: the whole piece'}{' '}
          {passage && (
            <button
              type="button"
              className="plain whole-button"
              aria-label="Make the whole piece the passage"
              onClick={() => edit([{ kind: 'set-session', change: { passage: null } }])}
            >
              Whole
            </button>
          )}
        </span>
      </div>
      <Overview />
      <Meters />
      <div className="listening">
        <button
          type="button"
          aria-pressed={mono}
          onClick={() => send(interfaceActions.monoSwitched())}
        >
          Mono
        </button>
        <button
          type="button"
          className="fair"
          aria-pressed={isCompare(heard)}
          disabled={!hasSound}
          onClick={() => {
            if (isCompare(heard)) desk.stopHearing()
            else desk.hear({ kind: 'without', target: { of: 'all' } }).catch(tell)
          }}
        >
          Fair compare
        </button>
        <span className="listening-text" role="status">
          {heard ? heardText(heard) : lifted.length > 0 && listenText(lifted)}
          {missed > 0 && <span className="problem"> {missed} reads came too late</span>}
          {late.gaps > 0 && (
            <span className="problem" title={lateText(late)}>
              {' '}
              {lateText(late)}
            </span>
          )}
        </span>
      </div>
    </footer>
  )
}

/** What a late machine did to the sound, and what is done about it. */
function lateText({ gaps, seconds, aheadSeconds }: Lateness): string {
  const ahead = aheadSeconds === null ? '' : `, prepared ${aheadSeconds} s ahead now`
  return `${gaps} ${gaps === 1 ? 'gap' : 'gaps'} in the sound${ahead}: this machine was late, by ${seconds.toFixed(1)} s`
}

function isCompare(heard: HeardRendition | null): boolean {
  return heard !== null && heard.rendition.kind !== 'finding'
}

const WITHOUT = { treatment: 'one treatment', stage: 'one stage', chain: 'one chain', all: 'moves' }

/** What is heard in place of the session. */
function heardText({ rendition, gainDb }: HeardRendition): string {
  if (gainDb === null) return 'making loudness equal …'
  if (rendition.kind === 'finding') return 'a finding is heard'
  if (rendition.kind === 'difference') {
    return rendition.target.of === 'all'
      ? 'only what all moves change'
      : `only what ${WITHOUT[rendition.target.of]} changes`
  }
  return `without ${WITHOUT[rendition.target.of]}, ${gainDb >= 0 ? '+' : ''}${signed(gainDb)} LU to match`
}

function listenText(tracks: readonly { letter: string; solo: boolean }[]): string {
  const soloed = tracks.filter((t) => t.solo).map((t) => t.letter)
  const raised = tracks.filter((t) => !t.solo).map((t) => t.letter)
  return [
    soloed.length > 0 ? `solo ${soloed.join(' ')}` : '',
    raised.length > 0 ? `lift ${raised.join(' ')}` : '',
  ]
    .filter(Boolean)
    .join(', ')
}

function PlayButton({ disabled, onError }: { disabled: boolean; onError: (e: unknown) => void }) {
  const desk = useDesk()
  const { playingSignal } = desk.player
  const playing = useSyncExternalStore(playingSignal.watch, playingSignal.read)
  return (
    <button
      type="button"
      className="play-button"
      disabled={disabled}
      aria-label={playing ? 'Pause' : 'Play'}
      onClick={() => {
        if (playing) desk.player.pause()
        else desk.player.play().catch(onError)
      }}
    >
      <svg viewBox="0 0 20 20" aria-hidden="true">
        {playing ? <path d="M4 3h4v14H4zM12 3h4v14h-4z" /> : <path d="M4 2l14 8-14 8z" />}
      </svg>
    </button>
  )
}

function Clock() {
  const desk = useDesk()
  const ref = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    let frame = 0
    const show = () => {
      const text = formatTime(desk.player.positionFrames / desk.player.sampleRateHz)
      if (ref.current && ref.current.textContent !== text) ref.current.textContent = text
      frame = requestAnimationFrame(show)
    }
    show()
    return () => cancelAnimationFrame(frame)
  }, [desk])
  return <span ref={ref} className="clock" role="timer" aria-label="Position" />
}

/** Loudness now and over the passage. */
function Meters() {
  const desk = useDesk()
  const { mix } = useAnalysis()
  const live = useSyncExternalStore(desk.live.watch, desk.live.read)
  const figure = (value: number | null | undefined) =>
    value === null || value === undefined ? '–' : signed(value)
  return (
    <dl className="meters" aria-label="Meters">
      <div title="Momentary loudness, 400 ms">
        <dt>M</dt>
        <dd>{figure(live?.momentaryLufs)}</dd>
      </div>
      <div title="Short-term loudness, 3 s">
        <dt>S</dt>
        <dd>{figure(live?.shortTermLufs)}</dd>
      </div>
      <div title="Integrated loudness of the mix over the passage, LUFS">
        <dt>I</dt>
        <dd>{figure(mix?.lufs)}</dd>
      </div>
      <div
        title="True peak of the mix over the passage, dBTP"
        data-over={(mix?.truePeakDbtp ?? -1) > 0}
      >
        <dt>TP</dt>
        <dd>{figure(mix?.truePeakDbtp)}</dd>
      </div>
    </dl>
  )
}
