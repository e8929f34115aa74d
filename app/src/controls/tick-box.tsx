import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import { memo, type ReactNode } from 'react'

interface TickBoxProps {
  readonly label: ReactNode
  /** Its name where the label is a sign. */
  readonly name?: string
  readonly checked: boolean
  readonly onChange: (checked: boolean) => void
  readonly disabled?: boolean
}

/** A box to tick, with its words. */
export const TickBox = memo(function TickBox(props: TickBoxProps) {
  const { label, name, checked, onChange, disabled } = props
  return (
    <FormControlLabel
      label={label}
      disabled={disabled}
      sx={{ whiteSpace: 'nowrap' }}
      control={
        <Checkbox
          checked={checked}
          title={name}
          slotProps={{ input: name ? { 'aria-label': name } : {} }}
          onChange={(e) => onChange(e.target.checked)}
        />
      }
    />
  )
})
