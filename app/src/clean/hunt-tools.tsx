import HuntIcon from '@mui/icons-material/HearingOutlined'
import SweepIcon from '@mui/icons-material/KeyboardDoubleArrowLeft'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ToggleButton from '@mui/material/ToggleButton'
import Typography from '@mui/material/Typography'
import { Choice } from '../controls/choice'
import { FigureField } from '../controls/figure-field'
import { Row } from '../controls/layout'
import { meaningOf } from '../controls/words'
import { signed } from '../format'
import { useAnalysis, useHeard } from '../shell/desk-context'
import { chosenNode, nodeName, useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { cleanActions, drawnOverTime, HUNT_CUT_DB, HUNT_Q, selectClean } from './clean-slice'
import { HuntedCutRow } from './hunted-cut'

const SIDES = [
  ['off', 'No spectrogram'],
  ['recorded', 'Spectrogram before chain'],
  ['treated', 'Spectrogram after chain'],
  ['both', 'Spectrogram, what is removed'],
] as const

/** Switches the hunt, lets it go by itself, and sets how narrow it is. */
export function HuntTools() {
  const session = useRouting()
  const node = useAppSelector(chosenNode)
  const { hunting, sweeping, q, cutDb, made, spectrogram } = useAppSelector(selectClean)
  const { tracks } = useAnalysis('tracks')
  const heard = useHeard()?.rendition
  const dispatch = useAppDispatch()
  const isTrack = session.tracks.some((t) => t.id === node)
  // A group or the mix is measured once one hunts on it.
  const isMeasured = isTrack ? tracks.has(node) : session.tracks.length > 0
  const drawn = drawnOverTime(spectrogram, session.references)
  return (
    <Box sx={{ p: '4px 12px 5px', borderBottom: 1, borderColor: 'divider' }}>
      <Row
        sx={{ gap: '4px 8px', '& > *': { flex: 'none', whiteSpace: 'nowrap' } }}
        role="toolbar"
        aria-label="Hunt"
      >
        <ToggleButton
          value="hunt"
          data-command="hunt"
          selected={hunting}
          title={meaningOf('hunt')}
          disabled={!isMeasured}
          onClick={() => dispatch(cleanActions.huntSwitched(!hunting))}
        >
          <HuntIcon fontSize="small" />
          Hunt by ear
        </ToggleButton>
        <Button
          variant="text"
          data-command="sweep"
          startIcon={<SweepIcon />}
          disabled={!isMeasured}
          onClick={() => dispatch(cleanActions.sweepSwitched(!sweeping))}
        >
          {sweeping ? 'Stop sweep' : 'Sweep high to low'}
        </Button>
        <FigureField
          label="Boost Q"
          value={q}
          format={(v) => v.toFixed(1)}
          limits={HUNT_Q}
          step={(v, direction, fine) => v * (fine ? 1.03 : 1.15) ** direction}
          characters={4}
          onChange={(value) => dispatch(cleanActions.widthChanged(value))}
        />
        <FigureField
          label="Cut"
          unit="dB"
          value={cutDb}
          format={(v) => signed(v)}
          limits={HUNT_CUT_DB}
          step={(v, direction, fine) => v + direction * (fine ? 0.1 : 0.5)}
          characters={5}
          onChange={(value) => dispatch(cleanActions.depthChanged(value))}
        />
        <Box sx={{ width: 200 }}>
          <Choice
            label="Over time"
            value={drawn.reference?.id ?? drawn.side}
            options={[
              ...SIDES,
              ...session.references.map((r) => [r.id, `Spectrogram of ${r.name}`] as const),
            ]}
            onChange={(chosen) => {
              const side = SIDES.find(([s]) => s === chosen)?.[0]
              const change = side ? { side } : { side: 'reference' as const, reference: chosen }
              dispatch(cleanActions.spectrogramChanged(change))
            }}
          />
        </Box>
      </Row>
      <Typography
        component="div"
        variant="body2"
        color="textSecondary"
        sx={{ minHeight: 24, pt: '3px' }}
      >
        {made?.node === node && !hunting ? (
          <HuntedCutRow made={made} />
        ) : !isMeasured ? (
          `${nodeName(session, node)} has not been measured yet.`
        ) : hunting ? (
          heard?.kind !== 'hunt' ? (
            `Measuring ${nodeName(session, node)}…`
          ) : (
            `Move with pointer or arrow keys. Click or press Enter to cut ${Math.abs(cutDb)} dB; Esc stops.`
          )
        ) : (
          'A narrow boost follows the pointer during playback, limited to +6 LU at any moment.'
        )}
      </Typography>
    </Box>
  )
}
