import InputAdornment from '@mui/material/InputAdornment'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { type KeyboardEvent, useState } from 'react'
import { parseFigure } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'
import { Term } from './term'
import type { Word } from './words'

interface FigureFieldProps {
  readonly label: string
  readonly value: number
  readonly format: (value: number) => string
  readonly limits: readonly [number, number]
  /** The value one arrow key away; `fine` with Shift. */
  readonly step: (value: number, direction: 1 | -1, fine: boolean) => number
  readonly onChange: (value: number, gesture: string | undefined) => void
  readonly unit?: string
  readonly showLabel?: boolean
  /** The word of ours that it sets, to be explained at the label. */
  readonly term?: Word
  /** What it is called where the label alone would not tell it from others; it holds the label. */
  readonly name?: string
  /** Reads what was typed; by default figures. */
  readonly read?: (text: string) => number | null
  /** Room for so many characters. */
  readonly characters?: number
}

/** A figure that can be typed, and nudged with the arrow keys. */
export function FigureField(props: FigureFieldProps) {
  const {
    label,
    value,
    format,
    limits,
    step,
    onChange,
    unit,
    showLabel = true,
    term,
    name = label,
    read: parse = parseFigure,
    characters = 6,
  } = props
  const [typed, setTyped] = useState<string | null>(null)
  const dispatch = useAppDispatch()
  const [low, high] = limits

  const commit = () => {
    if (typed === null) return
    setTyped(null)
    const read = parse(typed)
    if (read === null || read < low || read > high) {
      const accepted = `${format(low)} to ${format(high)}${unit ? ` ${unit}` : ''}`
      dispatch(interfaceActions.noticeShown(`${label}: Enter a value from ${accepted}.`, 'warning'))
      return
    }
    if (read !== value) onChange(read, undefined)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'Enter') commit()
    if (event.key === 'Escape') setTyped(null)
    if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
    event.preventDefault()
    setTyped(null)
    const next = step(value, event.key === 'ArrowUp' ? 1 : -1, event.shiftKey)
    onChange(Math.max(low, Math.min(high, next)), `field ${label}`)
  }
  return (
    <Typography
      component="span"
      noWrap
      sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.5 }}
    >
      {showLabel && (
        <span aria-hidden="true">{term ? <Term word={term}>{label}</Term> : label}</span>
      )}
      <OutlinedInput
        value={typed ?? format(value)}
        onChange={(event) => setTyped(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={commit}
        onKeyDown={onKeyDown}
        endAdornment={unit && <InputAdornment position="end">{unit}</InputAdornment>}
        inputProps={{
          inputMode: 'decimal',
          'aria-label': unit ? `${name}, ${unit}` : name,
          style: {
            width: `${characters}ch`,
            textAlign: 'right',
            fontFamily: '"Source Code Pro", monospace',
            fontSize: 12.5,
          },
        }}
      />
    </Typography>
  )
}
