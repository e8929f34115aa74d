import { BAND_LIMITS, type EqBand, hasGain, hasQ } from '@sober-prism/core/filters'
import { FigureField } from '../controls/figure-field'
import { parseHz, parseQ, signed } from '../format'

type Step = (value: number, direction: 1 | -1, fine: boolean) => number

const stepRatio =
  (ratio: number): Step =>
  (value, direction, fine) =>
    Number((value * ratio ** (direction * (fine ? 0.1 : 1))).toPrecision(4))

/** How far an arrow key moves the values of a band: a semitone, half a dB, an eighth of Q; finer with Shift. */
const stepHz = stepRatio(2 ** (1 / 12))
const stepQ = stepRatio(1.125)
const stepDb: Step = (value, direction, fine) =>
  Math.round((value + direction * (fine ? 0.05 : 0.5)) * 100) / 100

/** A band's values as they stand in fields. */
const fieldHz = (hz: number) =>
  hz >= 1000 ? `${Number((hz / 1000).toPrecision(4))}k` : `${Number(hz.toPrecision(4))}`
const fieldQ = (q: number) => `${Number(q.toPrecision(3))}`

interface BandFieldsProps {
  readonly band: EqBand
  readonly onChange: (values: Partial<EqBand>, gesture: string | undefined) => void
}

/** Frequency, gain and Q of a band, those that its type has, to be typed and nudged. */
export function BandFields({ band, onChange }: BandFieldsProps) {
  return (
    <>
      <FigureField
        label="Frequency"
        showLabel={false}
        unit="Hz"
        value={band.hz}
        limits={[20, 20000]}
        read={parseHz}
        format={fieldHz}
        step={stepHz}
        onChange={(hz, gesture) => onChange({ hz }, gesture)}
      />
      {hasGain(band.type) && (
        <FigureField
          label="Gain"
          showLabel={false}
          unit="dB"
          value={band.db}
          limits={BAND_LIMITS.db}
          format={(db) => signed(db, 2).replace(/0$/, '')}
          step={stepDb}
          onChange={(db, gesture) => onChange({ db }, gesture)}
        />
      )}
      {hasQ(band.type) && (
        <FigureField
          label="Q"
          value={band.q}
          limits={BAND_LIMITS.q}
          read={parseQ}
          format={fieldQ}
          step={stepQ}
          onChange={(q, gesture) => onChange({ q }, gesture)}
        />
      )}
    </>
  )
}
