import {
  CHANNEL_MODES,
  type ChannelMode,
  FILTER_TYPES,
  type FilterType,
  hasSlope,
} from '@sober-prism/core/filters'
import type { Mark } from '@sober-prism/core/treatments'
import { BandFields } from './band-fields'
import { CHANNEL_NAMES, TYPE_NAMES } from './names'
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
    <fieldset className="band-editor">
      <legend className="visually-hidden">Band {letter}</legend>
      <span className="letter" aria-hidden="true">
        {letter}
      </span>
      <label className="switch">
        <input type="checkbox" checked={mark.on} onChange={() => editing.switch(mark)} />
        On
      </label>
      <select
        aria-label="Type"
        value={band.type}
        onChange={(e) => editing.change(mark, { type: e.target.value as FilterType })}
      >
        {FILTER_TYPES.map((type) => (
          <option key={type} value={type}>
            {TYPE_NAMES[type]}
          </option>
        ))}
      </select>
      <BandFields
        band={band}
        onChange={(values, gesture) => editing.change(mark, values, gesture)}
      />
      {hasSlope(band.type) && (
        <select
          aria-label="Slope"
          value={band.slopeDbPerOct}
          onChange={(e) => editing.change(mark, { slopeDbPerOct: Number(e.target.value) })}
        >
          {SLOPES.map((slope) => (
            <option key={slope} value={slope}>
              {slope} dB/oct
            </option>
          ))}
        </select>
      )}
      {band.type === 'all-pass' && (
        <select
          aria-label="Order"
          value={band.slopeDbPerOct === 6 ? 1 : 2}
          onChange={(e) => editing.change(mark, { slopeDbPerOct: 6 * Number(e.target.value) })}
        >
          <option value={1}>First order</option>
          <option value={2}>Second order</option>
        </select>
      )}
      {stereo && (
        <select
          aria-label="Acts on"
          value={band.channel}
          onChange={(e) => editing.change(mark, { channel: e.target.value as ChannelMode })}
        >
          {CHANNEL_MODES.map((mode) => (
            <option key={mode} value={mode}>
              {CHANNEL_NAMES[mode]}
            </option>
          ))}
        </select>
      )}
      <input
        className="reason"
        type="text"
        aria-label="Reason"
        placeholder="Why this band?"
        maxLength={500}
        value={mark.reason}
        onChange={(e) => editing.setReason(mark, e.target.value)}
      />
      <button type="button" className="plain" onClick={() => editing.remove(mark)}>
        Remove
      </button>
    </fieldset>
  )
}
