import Slider from '@mui/material/Slider'
import { formatDb } from '../format'

const LOWEST_DB = -40
const HIGHEST_DB = 12

interface FaderProps {
  readonly label: string
  readonly db: number
  readonly onChange: (db: number) => void
}

/** A fader on its side, in half decibels. */
export function Fader({ label, db, onChange }: FaderProps) {
  return (
    <Slider
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
