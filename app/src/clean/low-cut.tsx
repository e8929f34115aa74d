import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { type EqBand, magnitudeDb, newBand } from '@sober-prism/core/filters'
import { LEVEL_BANDS, lowestSource, type SourceReading } from '@sober-prism/core/findings'
import { newMark } from '@sober-prism/core/treatments'
import { formatHz, formatHzWithNote, formatShare } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { useSession } from '../store/selectors'
import { useAppDispatch, useEdit } from '../store/store'
import styles from './clean.module.css'

/** The cut stands at this part of the lowest note: 130 to 140 Hz under most high voices, 65 Hz under a low one. */
const UNDER_NOTE = 0.62

/** The lowest note that occurs in the passage, and a low cut placed under it. */
export function LowCut({
  node,
  reading,
}: {
  node: string
  reading: Pick<SourceReading, 'lowest' | 'levels'>
}) {
  const { sampleRateHz } = useSession()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const { levels, lowest } = reading
  const source = lowestSource(reading)
  if (!source) {
    return (
      <section className={styles.pad} aria-label="Low cut">
        <Typography variant="h2">Low cut</Typography>
        <Typography color="text.secondary">
          No pitch can be followed in this track, so that there is no lowest note to cut under.
        </Typography>
      </section>
    )
  }
  const { hz, isNote } = source
  const cut: EqBand = { ...newBand('low-cut', Math.round(UNDER_NOTE * hz)), slopeDbPerOct: 24 }
  const make = () => {
    const reason = `Under the lowest ${isNote ? 'note' : 'sound'}, ${formatHz(hz)}`
    const mark = { ...newMark(crypto.randomUUID(), cut), reason }
    const newTreatment = crypto.randomUUID()
    edit([{ kind: 'add-band', node, stage: 'clean', treatment: null, newTreatment, mark }])
    dispatch(interfaceActions.stageChosen('clean'))
    dispatch(interfaceActions.bandChosen(mark.id))
  }
  const [ofNote] = magnitudeDb([cut], [hz], sampleRateHz)
  return (
    <section className={styles.pad} aria-label="Low cut">
      <Typography variant="h2">Low cut</Typography>
      <Typography>
        {isNote
          ? `The lowest note that occurs is ${formatHzWithNote(hz)}; ${formatShare(lowest.pitchedShare)} of what sounds has a pitch.`
          : `Several notes sound at once; the lowest that sounds begins at about ${formatHz(hz)}.`}
      </Typography>
      <Typography>
        A low cut at {formatHz(cut.hz)} takes {Math.abs(ofNote).toFixed(1)} dB there and{' '}
        {Math.abs(wholeChange(levels, cut, sampleRateHz)).toFixed(2)} dB from the whole.
      </Typography>
      <Button sx={{ justifySelf: 'start' }} onClick={make}>
        Low cut at {formatHz(cut.hz)}, 24 dB per octave
      </Button>
    </section>
  )
}

/** What a band does to the level of the whole, in dB. */
function wholeChange(levels: Float64Array, band: EqBand, sampleRateHz: number): number {
  const gains = magnitudeDb(
    [band],
    LEVEL_BANDS.map((b) => b.hz),
    sampleRateHz,
  )
  let [before, after] = [0, 0]
  levels.forEach((db, i) => {
    before += 10 ** (db / 10)
    after += 10 ** ((db + gains[i]) / 10)
  })
  return before > 0 && after > 0 ? 10 * Math.log10(after / before) : 0
}
