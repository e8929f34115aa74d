import {
  CHANNEL_MODES,
  type ChannelMode,
  FILTER_TYPES,
  type FilterType,
  hasSlope,
  type Move,
} from '@sober-prism/core/session'
import { BandFields } from './band-fields'
import { CHANNEL_NAMES, TYPE_NAMES } from './names'
import type { MoveEditing } from './use-moves'

const SLOPES = Array.from({ length: 16 }, (_, i) => 6 * (i + 1))

interface BandEditorProps {
  readonly letter: string
  readonly move: Move
  readonly stereo: boolean
  readonly editing: MoveEditing
}

/** Every value of one move, to be typed. */
export function BandEditor({ letter, move, stereo, editing }: BandEditorProps) {
  const { band } = move
  return (
    <fieldset className="band-editor">
      <legend className="visually-hidden">Move {letter}</legend>
      <span className="letter" aria-hidden="true">
        {letter}
      </span>
      <label className="switch">
        <input type="checkbox" checked={move.on} onChange={() => editing.switch(move)} />
        On
      </label>
      <select
        aria-label="Type"
        value={band.type}
        onChange={(e) => editing.change(move, { type: e.target.value as FilterType })}
      >
        {FILTER_TYPES.map((type) => (
          <option key={type} value={type}>
            {TYPE_NAMES[type]}
          </option>
        ))}
      </select>
      <BandFields
        band={band}
        onChange={(values, gesture) => editing.change(move, values, gesture)}
      />
      {hasSlope(band.type) && (
        <select
          aria-label="Slope"
          value={band.slopeDbPerOct}
          onChange={(e) => editing.change(move, { slopeDbPerOct: Number(e.target.value) })}
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
          onChange={(e) => editing.change(move, { slopeDbPerOct: 6 * Number(e.target.value) })}
        >
          <option value={1}>First order</option>
          <option value={2}>Second order</option>
        </select>
      )}
      {stereo && (
        <select
          aria-label="Acts on"
          value={band.channel}
          onChange={(e) => editing.change(move, { channel: e.target.value as ChannelMode })}
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
        placeholder="Why this move?"
        maxLength={500}
        value={move.reason}
        onChange={(e) => editing.setReason(move, e.target.value)}
      />
      <button type="button" className="plain" onClick={() => editing.remove(move)}>
        Remove
      </button>
    </fieldset>
  )
}
