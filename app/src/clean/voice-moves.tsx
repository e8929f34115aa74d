import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { readVoice, type SourceReading, voiceMoves } from '@sober-prism/core/findings'
import { chainOf, type Edit } from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { useMemo, useState } from 'react'
import { Pane } from '../controls/layout'
import { TickBox } from '../controls/tick-box'
import { VOICE_MOVE_NAMES, voiceMoveText } from '../findings/voice-words'
import { capital, signed } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'

interface VoiceMovesProps {
  readonly node: string
  readonly reading: Pick<SourceReading, 'levels' | 'lowest' | 'bands' | 'rumble'>
}

/** What a voice's microphone did, and small moves that answer it. */
export function VoiceMoves({ node, reading }: VoiceMovesProps) {
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const voice = useMemo(() => readVoice(reading), [reading])
  const treatments = useAppSelector((root) => chainOf(openSession(root), node)?.treatments)
  const moves = useMemo(() => voiceMoves(voice, treatments), [voice, treatments])
  const [left, setLeft] = useState<readonly string[]>([])
  const chosen = moves.filter((m) => !left.includes(m.what))
  const make = () => {
    const newTreatment = crypto.randomUUID()
    const chainBands = chosen.map(({ what, band, why }) => ({
      ...newChainBand(crypto.randomUUID(), band),
      reason: `${VOICE_MOVE_NAMES[what]}: ${why}`,
    }))
    edit(
      chainBands.map(
        (chainBand): Edit => ({
          kind: 'add-band',
          node,
          stage: 'clean',
          treatment: null,
          newTreatment,
          chainBand,
        }),
      ),
    )
    dispatch(interfaceActions.stageChosen('clean'))
    dispatch(interfaceActions.bandsChosen(chainBands.map((m) => m.id)))
    const count = chainBands.length === 1 ? '1 band' : `${chainBands.length} bands`
    dispatch(interfaceActions.noticeShown(`Proximity and air: ${count} added.`, 'info', 'edit'))
  }
  const against = (db: number | null, more: string, less: string) =>
    db === null ? null : `${signed(Math.abs(db))} dB ${db >= 0 ? more : less}`
  return (
    <Pane as="section" aria-label="Proximity and air">
      <Typography variant="h2">Proximity and air</Typography>
      <Typography variant="body2" color="textSecondary">
        Relative to speech from one metre:{' '}
        {against(voice.nearnessDb, 'more below 300 Hz', 'less below 300 Hz') ??
          'no voice low enough to judge proximity'}
        ;{' '}
        {against(voice.clarityDb, 'more above 10 kHz', 'less above 10 kHz') ??
          'no voice above 10 kHz to judge'}
        .
      </Typography>
      {moves.map((move) => {
        const { what, why } = move
        return (
          <div key={what}>
            <TickBox
              label={voiceMoveText(move)}
              checked={!left.includes(what)}
              onChange={() =>
                setLeft(left.includes(what) ? left.filter((w) => w !== what) : [...left, what])
              }
            />
            <Typography variant="body2" color="textSecondary">
              {capital(why)}.
            </Typography>
          </div>
        )
      })}
      {moves.length > 0 && (
        <Button sx={{ justifySelf: 'start' }} disabled={chosen.length === 0} onClick={make}>
          {chosen.length === 1 ? 'Apply 1 move' : `Apply ${chosen.length} moves`}
        </Button>
      )}
    </Pane>
  )
}
