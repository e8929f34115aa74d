import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { magnitudeDb } from '@sober-prism/core/filters'
import {
  isLowCutMade,
  LEVEL_BANDS,
  lowCutMade,
  lowestSource,
  proposeLowCut,
  type SourceReading,
  steadyLoudness,
} from '@sober-prism/core/findings'
import { chainOf } from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { memo, useMemo } from 'react'
import { Pane } from '../controls/layout'
import { formatHz, formatHzWithNote, formatShare } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { openSession, useRouting } from '../store/selectors'
import { useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { PitchTrack } from './pitch-track'

/** The lowest note that occurs in the passage, and a low cut placed under it. */
export const LowCut = memo(function LowCut({
  node,
  reading,
}: {
  node: string
  reading: Pick<SourceReading, 'lowest' | 'levels' | 'rumble'>
}) {
  const { sampleRateHz, listeningDbSpl } = useRouting()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const { levels, lowest } = reading
  const source = useMemo(() => lowestSource(reading), [reading])
  const cut = useMemo(() => proposeLowCut(reading), [reading])
  // The one value of the chain that counts here: a drag on the sheet changes others all the time.
  const madeHz = useAppSelector((root) => {
    const treatments = chainOf(openSession(root), node)?.treatments ?? []
    return cut && isLowCutMade(treatments, cut) ? lowCutMade(treatments) : null
  })
  if (!source || !cut) {
    return (
      <Pane as="section" aria-label="Low cut">
        <Typography variant="h2">Low cut</Typography>
        <Typography color="textSecondary">
          No pitch detected, so there is no lowest note to cut below.
        </Typography>
      </Pane>
    )
  }
  const { hz, isNote } = source
  const make = () => {
    const reason = `Below the lowest ${isNote ? 'note' : 'sound'}, ${formatHz(hz)}`
    const chainBand = { ...newChainBand(crypto.randomUUID(), cut), reason }
    const newTreatment = crypto.randomUUID()
    edit([{ kind: 'add-band', node, stage: 'clean', treatment: null, newTreatment, chainBand }])
    dispatch(interfaceActions.stageChosen('clean'))
    dispatch(interfaceActions.bandChosen(chainBand.id))
  }
  const [ofNote] = magnitudeDb([cut], [hz], sampleRateHz)
  const gains = magnitudeDb([cut], LEVEL_HZ, sampleRateHz)
  const [before, after] = [levels, levels.map((db, i) => db + gains[i])]
  const sones = [before, after].map((l) => steadyLoudness(l, listeningDbSpl))
  return (
    <Pane as="section" aria-label="Low cut">
      <Typography variant="h2">Low cut</Typography>
      <Typography>
        {isNote
          ? `The lowest note is ${formatHzWithNote(hz)}; ${formatShare(lowest.pitchedShare)} of the sound is pitched.`
          : `Several notes sound at once; the lowest begins at about ${formatHz(hz)}.`}
      </Typography>
      <PitchTrack track={lowest.track} hz={hz} cutHz={madeHz ?? cut.hz} />
      {madeHz !== null && <Typography>A low cut at {formatHz(madeHz)} is in the chain.</Typography>}
      {madeHz === null && (
        <>
          <Typography>
            A low cut at {formatHz(cut.hz)} costs {Math.abs(ofNote).toFixed(1)} dB at {formatHz(hz)}{' '}
            and {(powerDb(before) - powerDb(after)).toFixed(2)} dB overall (
            {(sones[0] - sones[1]).toFixed(2)} of {sones[0].toFixed(1)} sone).
          </Typography>
          <Button data-command="low-cut" sx={{ justifySelf: 'start' }} onClick={make}>
            Low cut at {formatHz(cut.hz)}, 24 dB/oct
          </Button>
        </>
      )}
    </Pane>
  )
})

const LEVEL_HZ = LEVEL_BANDS.map((b) => b.hz)

/** Level of the whole, in dB. */
function powerDb(levels: Float64Array): number {
  return 10 * Math.log10(levels.reduce((sum, db) => sum + 10 ** (db / 10), 1e-30))
}
