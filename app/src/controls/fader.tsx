import Slider from '@mui/material/Slider'
import { formatDb } from '../format'
import { useWheel } from './use-wheel'

/** From the lowest to the highest, in dB. */
export const FADER_DB = [-40, 12] as const
const [LOWEST_DB, HIGHEST_DB] = FADER_DB

interface FaderProps {
  readonly label: string
  readonly db: number
  readonly onChange: (db: number) => void
}

/** A fader on its side, in half decibels; the wheel moves it while it has the focus. */
export function Fader({ label, db, onChange }: FaderProps) {
  const input = useWheel((direction) =>
    onChange(Math.max(LOWEST_DB, Math.min(HIGHEST_DB, db + 0.5 * direction))),
  )
  return (
    <Slider
      slotProps={{ input: { ref: input } }}
      aria-label={label}
      getAriaValueText={(v) => `${formatDb(v)} dB`}
      min={LOWEST_DB}
      max={HIGHEST_DB}
      step={0.5}
      value={Math.max(LOWEST_DB, db)}
      onChange={(_, value) => onChange(value as number)}
    />
  )
}
