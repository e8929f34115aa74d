import type { VoiceMove } from '@sober-prism/core/findings'
import { formatHz, signed } from '../format'

/** What the small edits of a voice are called. */
export const VOICE_MOVE_NAMES: Readonly<Record<VoiceMove['what'], string>> = {
  'roll-off': 'Low cut',
  nearness: 'Proximity',
  clarity: 'Air',
}

/** One of them with its figures. */
export function voiceMoveText({ what, band: { type, hz, db } }: VoiceMove): string {
  const does =
    type === 'low-cut'
      ? `low cut at ${formatHz(hz)}`
      : `${type === 'low-shelf' ? 'low' : 'high'} shelf ${signed(db)} dB at ${formatHz(hz)}`
  return `${VOICE_MOVE_NAMES[what]}: ${does}`
}
