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
  if (type === 'low-cut') return `${VOICE_MOVE_NAMES[what]} at ${formatHz(hz)}`
  const shelf = type === 'low-shelf' ? 'low shelf' : 'high shelf'
  return `${VOICE_MOVE_NAMES[what]}: ${shelf} ${signed(db)} dB at ${formatHz(hz)}`
}
