import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { readVoice, type VoiceMove, voiceMoves } from '@sober-prism/core/findings'
import type { Edit } from '@sober-prism/core/session'
import { newMark, newTreatment } from '@sober-prism/core/treatments'
import { errorSentence, isCancel } from '@sober-prism/engine'
import { useEffect, useMemo, useRef, useState } from 'react'
import { TickBox } from '../controls/tick-box'
import { VOICE_MOVE_NAMES, voiceMoveText } from '../findings/voice-words'
import { capital, signed } from '../format'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import styles from './shape.module.css'

const LEVEL = 'level'
const AT_MOST_DB = 4
const NORMALISE = 'normalise'
/** Room for what a player or an encoder adds between samples. */
const PEAK_DBTP = -1

/** A voice's whole chain in one action, each part of which can be left out: roll-off, nearness, clarity, leveller. */
export function VoiceChain({ node }: { node: string }) {
  const session = useSession()
  const { tracks } = useAnalysis()
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const [left, setLeft] = useState<readonly string[]>([])
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const running = useRef<AbortController | null>(null)
  useEffect(() => () => running.current?.abort(), [])
  const track = session.tracks.find((t) => t.id === node)
  const reading = tracks.get(node)?.reading ?? null
  const moves = useMemo(() => (reading ? voiceMoves(readVoice(reading)) : []), [reading])
  if (!track || (track.role !== 'voice' && track.role !== 'speech')) return null
  const isLeft = (what: string) => left.includes(what)
  const part = (what: string, label: string, why: string) => (
    <div key={what}>
      <TickBox
        label={label}
        checked={!isLeft(what)}
        onChange={() => setLeft(isLeft(what) ? left.filter((w) => w !== what) : [...left, what])}
      />
      <Typography variant="body2" color="text.secondary">
        {why}
      </Typography>
    </div>
  )
  const make = async () => {
    const controller = new AbortController()
    running.current = controller
    setTrouble(null)
    setBusy(true)
    try {
      const edits = bandEdits(
        node,
        moves.filter((m) => !isLeft(m.what)),
      )
      if (!isLeft(LEVEL)) {
        const settings = {
          ...newTreatment('leveller', 'usual', 'shape').params,
          atMostDb: AT_MOST_DB,
        }
        const found = await desk.levelling(node, settings, { signal: controller.signal })
        if (found?.thresholdDb != null) {
          const params = { ...settings, thresholdDb: found.thresholdDb }
          const treatment = {
            ...newTreatment('leveller', crypto.randomUUID(), 'shape', params),
            reason: `At most ${AT_MOST_DB} dB at the loudest`,
          }
          edits.push({ kind: 'add-treatment', node, treatment, before: null })
        }
      }
      if (!isLeft(NORMALISE)) {
        const normalise = { to: 'peak', dbtp: PEAK_DBTP } as const
        edits.push({ kind: 'set-session', change: { normalise } })
      }
      edit(edits)
      dispatch(interfaceActions.noticeShown(`Chain of ${track.name} made.`, 'info', 'edit'))
    } catch (error) {
      setTrouble(isCancel(error) || controller.signal.aborted ? 'Stopped.' : errorSentence(error))
    }
    setBusy(false)
  }
  return (
    <section className={styles.pane} aria-label="Voice chain">
      <Typography variant="h2">Voice chain</Typography>
      {!reading && <Typography color="text.secondary">It is not measured yet.</Typography>}
      {reading && (
        <>
          {moves.map((m) => part(m.what, voiceMoveText(m), `${capital(m.why)}.`))}
          {part(
            LEVEL,
            `Leveller: at most ${AT_MOST_DB} dB`,
            'Its threshold is found over the passage.',
          )}
          {part(
            NORMALISE,
            `Rendered mix: peak at ${signed(PEAK_DBTP)} dBTP`,
            'Done when it is rendered; Deliver shows it.',
          )}
          <Button
            sx={{ justifySelf: 'start' }}
            disabled={busy || [LEVEL, NORMALISE, ...moves.map((m) => m.what)].every(isLeft)}
            onClick={() => void make()}
          >
            {busy ? 'Finding the threshold …' : `Make the chain of ${track.name}`}
          </Button>
        </>
      )}
      <div aria-live="polite">
        {trouble && <Typography color="warning.main">{trouble}</Typography>}
      </div>
    </section>
  )
}

/** The roll-off belongs to Clean, tone to Shape. */
function bandEdits(node: string, moves: readonly VoiceMove[]): Edit[] {
  const ids = { clean: crypto.randomUUID(), shape: crypto.randomUUID() }
  return moves.map(({ what, band, why }) => {
    const stage = what === 'roll-off' ? 'clean' : 'shape'
    const mark = {
      ...newMark(crypto.randomUUID(), band),
      reason: `${VOICE_MOVE_NAMES[what]}: ${why}`,
    }
    return { kind: 'add-band', node, stage, treatment: null, newTreatment: ids[stage], mark }
  })
}
