import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import {
  CHANNEL_MODES,
  type EqBand,
  FILTER_TYPES,
  hasGain,
  hasSlope,
} from '@sober-prism/core/filters'
import type { ChainBand } from '@sober-prism/core/treatments'
import { memo, useCallback, useRef } from 'react'
import { Choice } from '../../controls/choice'
import { Fields } from '../../controls/layout'
import { TickBox } from '../../controls/tick-box'
import { useThrottled } from '../../use-throttled'
import { CHANNEL_NAMES, TYPE_NAMES } from '../names'
import { BandFields } from './band-fields'
import type { BandEditing } from './use-bands'

const SLOPES = Array.from({ length: 16 }, (_, i) => [6 * (i + 1), `${6 * (i + 1)} dB/oct`] as const)
const TYPES = FILTER_TYPES.map((type) => [type, TYPE_NAMES[type]] as const)
const CHANNELS = CHANNEL_MODES.map((mode) => [mode, CHANNEL_NAMES[mode]] as const)
const ORDERS = [
  [6, 'First order'],
  [12, 'Second order'],
] as const

interface BandEditorProps {
  readonly letter: string
  /** Number of bands are chosen with it. */
  readonly besides: number
  readonly chainBand: ChainBand
  readonly stereo: boolean
  readonly editing: BandEditing
}

/** Common practice cuts a ring no deeper than this. */
const MOST_CUT_DB = 15
/** How often figures follow a drag. */
const FOLLOW_MS = 100

/** Every value of one band, to be typed. */
export function BandEditor({ letter, besides, chainBand, stereo, editing }: BandEditorProps) {
  const latest = useRef(chainBand)
  latest.current = chainBand
  const change = useCallback(
    (values: Partial<EqBand>, gesture?: string) => editing.change(latest.current, values, gesture),
    [editing],
  )
  const onSwitch = useCallback(() => editing.switch(latest.current), [editing])
  const onRemove = useCallback(() => editing.remove(latest.current), [editing])
  const setReason = useCallback(
    (reason: string) => editing.setReason(latest.current, reason),
    [editing],
  )
  const band = useThrottled(chainBand.band, FOLLOW_MS)
  return (
    <Fields sx={{ display: 'contents' }}>
      <legend className="visually-hidden">Band {letter}</legend>
      <Typography
        variant="figure"
        sx={{
          minWidth: 20,
          textAlign: 'center',
          lineHeight: '20px',
          bgcolor: 'primary.main',
          color: 'primary.contrastText',
        }}
        aria-hidden="true"
      >
        {letter}
      </Typography>
      {besides > 0 && <Typography component="span">and {besides} more</Typography>}
      <BandValues
        band={band}
        on={chainBand.on}
        stereo={stereo}
        onChange={change}
        onSwitch={onSwitch}
      />
      <ReasonField reason={chainBand.reason} onChange={setReason} />
      <RemoveButton onRemove={onRemove} />
      {hasGain(band.type) && band.db < -MOST_CUT_DB && (
        <Typography role="note" color="warning" sx={{ flexBasis: '100%' }}>
          More than {MOST_CUT_DB} dB: this removes the range. Is none of it wanted?
        </Typography>
      )}
    </Fields>
  )
}

interface ReasonFieldProps {
  readonly reason: string
  readonly onChange: (reason: string) => void
}

const ReasonField = memo(function ReasonField({ reason, onChange }: ReasonFieldProps) {
  return (
    <OutlinedInput
      sx={{ flex: 1, minWidth: 90 }}
      placeholder="Why this band?"
      value={reason}
      inputProps={{ 'aria-label': 'Reason', maxLength: 500 }}
      onChange={(e) => onChange(e.target.value)}
    />
  )
})

const RemoveButton = memo(function RemoveButton({ onRemove }: { onRemove: () => void }) {
  return (
    <Button variant="text" onClick={onRemove}>
      Remove
    </Button>
  )
})

interface BandValuesProps {
  readonly band: EqBand
  readonly on: boolean
  readonly stereo: boolean
  readonly onChange: (values: Partial<EqBand>, gesture?: string) => void
  readonly onSwitch: () => void
}

/** On, type and values of a band, and what it acts on. */
export const BandValues = memo(function BandValues(props: BandValuesProps) {
  const { band, on, stereo, onChange, onSwitch } = props
  return (
    <>
      <TickBox label="On" checked={on} onChange={onSwitch} />
      <BandChoice label="Type" field="type" value={band.type} options={TYPES} onChange={onChange} />
      <BandFields band={band} onChange={onChange} />
      {hasSlope(band.type) && (
        <BandChoice
          label="Slope"
          field="slopeDbPerOct"
          value={band.slopeDbPerOct}
          options={SLOPES}
          onChange={onChange}
        />
      )}
      {band.type === 'all-pass' && (
        <BandChoice
          label="Order"
          field="slopeDbPerOct"
          value={band.slopeDbPerOct === 6 ? 6 : 12}
          options={ORDERS}
          onChange={onChange}
        />
      )}
      {stereo && (
        <BandChoice
          label="Acts on"
          field="channel"
          value={band.channel}
          options={CHANNELS}
          onChange={onChange}
        />
      )}
    </>
  )
})

interface BandChoiceProps {
  readonly label: string
  readonly field: 'type' | 'slopeDbPerOct' | 'channel'
  readonly value: string | number
  readonly options: readonly (readonly [string | number, string])[]
  readonly onChange: (values: Partial<EqBand>) => void
}

/** One of a band's values that is chosen from a list. */
const BandChoice = memo(function BandChoice(props: BandChoiceProps) {
  const { label, field, value, options, onChange } = props
  return (
    <Choice
      label={label}
      value={value}
      options={options}
      onChange={(chosen) => onChange({ [field]: chosen })}
    />
  )
})
