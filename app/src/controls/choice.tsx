import NativeSelect from '@mui/material/NativeSelect'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'

interface ChoiceProps<T extends string | number> {
  readonly label: string
  readonly value: T
  readonly options: readonly (readonly [T, string])[]
  readonly onChange: (value: T) => void
  readonly disabled?: boolean
  readonly title?: string
  /** Whether its label stands before it; else it is its name alone. */
  readonly labelled?: boolean
}

/** One of a few values, from a list. */
export function Choice<T extends string | number>(props: ChoiceProps<T>) {
  const { label, value, options, onChange, disabled, title, labelled = false } = props
  const select = (
    <NativeSelect
      input={<OutlinedInput />}
      value={value}
      disabled={disabled}
      title={title}
      sx={{ minWidth: 64, maxWidth: '100%' }}
      inputProps={{ 'aria-label': label }}
      onChange={({ target }) => {
        const chosen = options.find(([v]) => String(v) === target.value)
        if (chosen) onChange(chosen[0])
      }}
    >
      {options.map(([v, text]) => (
        <option key={v} value={v}>
          {text}
        </option>
      ))}
    </NativeSelect>
  )
  if (!labelled) return select
  return (
    <Typography
      component="span"
      noWrap
      sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.5, maxWidth: '100%' }}
    >
      <span aria-hidden="true">{label}</span>
      {select}
    </Typography>
  )
}
