import { hasGain } from '@sober-prism/core/filters'
import type { NodeTrait } from '@sober-prism/core/session'
import { kindOf } from '@sober-prism/core/treatments'
import { formatDb, formatHz, panText, signed } from '../format'
import { TYPE_NAMES } from '../sheet/names'

/** What a node has in one state and not in another, in words. */
export function traitWords(trait: NodeTrait): string {
  switch (trait.of) {
    case 'trim':
      return `trim ${formatDb(trait.db)} dB`
    case 'fader':
      return `fader ${formatDb(trait.db)} dB`
    case 'pan':
      return `pan ${panText(trait.pan)}`
    case 'mute':
      return 'muted'
    case 'output':
      return `to ${trait.to}`
    case 'chain-output':
      return `output ${signed(trait.gainDb)} dB${trait.inverted ? ', inverted' : ''}`
    case 'band': {
      const { type, hz, db, q } = trait.band
      const gain = hasGain(type) ? ` ${db > 0 ? '+' : ''}${signed(db)} dB` : ''
      const width = type === 'bell' || type === 'notch' ? `, Q ${q.toFixed(1)}` : ''
      return `${TYPE_NAMES[type].toLowerCase()} ${formatHz(hz)}${gain}${width}${trait.on ? '' : ' (off)'}`
    }
    case 'treatment': {
      const { kind, params, on } = trait.treatment
      const { name, describe } = kindOf(kind)
      return `${name}: ${describe(params)}${on ? '' : ' (off)'}`
    }
  }
}
