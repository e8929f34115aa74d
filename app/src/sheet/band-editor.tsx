import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import {
  CHANNEL_MODES,
  type ChannelMode,
  FILTER_TYPES,
  type FilterType,
  hasSlope,
} from '@sober-prism/core/filters'
import type { Mark } from '@sober-prism/core/treatments'
import { Choice } from '../controls/choice'
import { TickBox } from '../controls/tick-box'
import { BandFields } from './band-fields'
import { CHANNEL_NAMES, TYPE_NAMES } from './names'
import styles from './sheet.module.css'
import type { BandEditing } from './use-bands'

const SLOPES = Array.from({ length: 16 }, (_, i) => 6 * (i + 1))

interface BandEditorProps {
  readonly letter: string
  readonly mark: Mark
  readonly stereo: boolean
  readonly editing: BandEditing
}

/** Every value of one band, to be typed. */
export function BandEditor({ letter, mark, stereo, editing }: BandEditorProps) {
  const { band } = mark
  return (
    <fieldset className={styles.fields}>
      <legend className="visually-hidden">Band {letter}</legend>
      <span className={styles.letter} aria-hidden="true">
        {letter}
      </span>
      <TickBox label="On" checked={mark.on} onChange={() => editing.switch(mark)} />
      <Choice
        label="Type"
        value={band.type}
        options={FILTER_TYPES.map((type) => [type, TYPE_NAMES[type]] as const)}
        onChange={(type: FilterType) => editing.change(mark, { type })}
      />
      <BandFields
        band={band}
        onChange={(values, gesture) => editing.change(mark, values, gesture)}
      />
      {hasSlope(band.type) && (
        <Choice
          label="Slope"
          value={band.slopeDbPerOct}
          options={SLOPES.map((slope) => [slope, `${slope} dB/oct`] as const)}
          onChange={(slopeDbPerOct) => editing.change(mark, { slopeDbPerOct })}
        />
      )}
      {band.type === 'all-pass' && (
        <Choice
          label="Order"
          value={band.slopeDbPerOct === 6 ? 6 : 12}
          options={[
            [6, 'First order'],
            [12, 'Second order'],
          ]}
          onChange={(slopeDbPerOct) => editing.change(mark, { slopeDbPerOct })}
        />
      )}
      {stereo && (
        <Choice
          label="Acts on"
          value={band.channel}
          options={CHANNEL_MODES.map((mode) => [mode, CHANNEL_NAMES[mode]] as const)}
          onChange={(channel: ChannelMode) => editing.change(mark, { channel })}
        />
      )}
      <OutlinedInput
        sx={{ flex: 1, minWidth: 90 }}
        placeholder="Why this band?"
        value={mark.reason}
        inputProps={{ 'aria-label': 'Reason', maxLength: 500 }}
        onChange={(e) => editing.setReason(mark, e.target.value)}
      />
      <Button variant="text" onClick={() => editing.remove(mark)}>
        Remove
      </Button>
    </fieldset>
  )
}
