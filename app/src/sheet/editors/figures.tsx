import { FigureField } from '../../controls/figure-field'
import { parseHz, signed } from '../../format'
import { byAmount, byRatio, bySemitone } from './steps'

interface FigureProps {
  readonly label: string
  readonly value: number
  readonly limits: readonly [number, number]
  readonly onChange: (value: number, gesture: string | undefined) => void
  readonly showLabel?: boolean
}

/** A level or a gain, in steps of half a decibel. */
export function DbField({ step = 0.5, ...props }: FigureProps & { step?: number }) {
  return (
    <FigureField
      {...props}
      unit="dB"
      format={(v) => signed(v)}
      step={byAmount(step)}
      characters={5}
    />
  )
}

/** A time in milliseconds: by ratio, or in even steps where it may be nothing. */
export function MsField({ by, ...props }: FigureProps & { by?: number }) {
  return (
    <FigureField
      {...props}
      unit="ms"
      format={(v) => `${Number(v.toPrecision(3))}`}
      step={by === undefined ? byRatio(1.2) : byAmount(by)}
      characters={5}
    />
  )
}

/** A frequency, typed as a figure or a note. */
export function HzField(props: FigureProps) {
  return (
    <FigureField
      {...props}
      unit="Hz"
      read={parseHz}
      format={(v) => `${Number(v.toPrecision(4))}`}
      step={bySemitone}
    />
  )
}

/** A share, 0 to 1 or beyond, in percent. */
export function PercentField({
  label,
  value,
  onChange,
  most = 1,
}: Pick<FigureProps, 'label' | 'value' | 'onChange'> & { most?: number }) {
  return (
    <FigureField
      label={label}
      unit="%"
      value={100 * value}
      limits={[0, 100 * most]}
      format={(v) => v.toFixed(0)}
      step={byAmount(5)}
      characters={4}
      onChange={(v, gesture) => onChange(v / 100, gesture)}
    />
  )
}
