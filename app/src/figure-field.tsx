import { type KeyboardEvent, useState } from 'react'
import { parseFigure } from './format'
import { interfaceActions } from './store/interface-slice'
import { useSend } from './store/store'

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
}

/** A figure that can be typed, and nudged with the arrow keys. */
export function FigureField(props: FigureFieldProps) {
  const { label, value, format, limits, step, onChange, unit, showLabel = true } = props
  const [typed, setTyped] = useState<string | null>(null)
  const send = useSend()
  const [low, high] = limits

  const commit = () => {
    if (typed === null) return
    setTyped(null)
    const read = parseFigure(typed)
    if (read === null || read < low || read > high) {
      const accepted = `${format(low)} to ${format(high)}${unit ? ` ${unit}` : ''}`
      send(
        interfaceActions.noticeShown(
          `${label}: “${typed}” is not accepted. Type a figure from ${accepted}.`,
          'warning',
        ),
      )
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
    <label className="figure-field">
      {showLabel && <span>{label}</span>}
      <input
        type="text"
        inputMode="decimal"
        aria-label={unit ? `${label}, ${unit}` : label}
        value={typed ?? format(value)}
        onChange={(event) => setTyped(event.target.value)}
        onFocus={(event) => event.target.select()}
        onBlur={commit}
        onKeyDown={onKeyDown}
      />
      {unit && <span className="unit">{unit}</span>}
    </label>
  )
}
