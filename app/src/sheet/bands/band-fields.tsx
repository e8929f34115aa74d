import { BAND_LIMITS, type EqBand, hasGain, hasQ } from '@sober-prism/core/filters'
import { memo } from 'react'
import { FigureField } from '../../controls/figure-field'
import { parseHz, parseQ, signed } from '../../format'

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
const fieldDb = (db: number) => signed(db, 2).replace(/0$/, '')
const fieldQ = (q: number) => `${Number(q.toPrecision(3))}`

interface BandFieldsProps {
  readonly band: EqBand
  /** The same from render to render, so that only what changed is drawn. */
  readonly onChange: Change
}

type Change = (values: Partial<EqBand>, gesture: string | undefined) => void

/** Frequency, gain and Q of a band, those that its type has, to be typed and nudged. */
export function BandFields({ band, onChange }: BandFieldsProps) {
  return (
    <>
      <HzField hz={band.hz} onChange={onChange} />
      {hasGain(band.type) && <GainField db={band.db} onChange={onChange} />}
      {hasQ(band.type) && <QField q={band.q} onChange={onChange} />}
    </>
  )
}

const HzField = memo(function HzField({ hz, onChange }: { hz: number; onChange: Change }) {
  return (
    <FigureField
      label="Frequency"
      showLabel={false}
      unit="Hz"
      value={hz}
      limits={[20, 20000]}
      read={parseHz}
      format={fieldHz}
      step={stepHz}
      onChange={(value, gesture) => onChange({ hz: value }, gesture)}
    />
  )
})

const GainField = memo(function GainField({ db, onChange }: { db: number; onChange: Change }) {
  return (
    <FigureField
      label="Gain"
      showLabel={false}
      unit="dB"
      value={db}
      limits={BAND_LIMITS.db}
      format={fieldDb}
      step={stepDb}
      onChange={(value, gesture) => onChange({ db: value }, gesture)}
    />
  )
})

const QField = memo(function QField({ q, onChange }: { q: number; onChange: Change }) {
  return (
    <FigureField
      label="Q"
      value={q}
      limits={BAND_LIMITS.q}
      read={parseQ}
      format={fieldQ}
      step={stepQ}
      onChange={(value, gesture) => onChange({ q: value }, gesture)}
    />
  )
})
