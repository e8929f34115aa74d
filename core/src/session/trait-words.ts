import { hasGain } from '../filters'
import { kindOf } from '../treatments'
import type { NodeTrait } from './differences'

/** What a node has in one state and not in another, in words; a minus is a hyphen. */
export function traitWords(trait: NodeTrait): string {
  switch (trait.of) {
    case 'trim':
    case 'fader':
      return `${trait.of} ${trait.db.toFixed(1)} dB`
    case 'pan':
      return panWords(trait.pan)
    case 'mute':
      return 'muted'
    case 'output':
      return `to ${trait.to}`
    case 'chain-output':
      return `output ${trait.gainDb.toFixed(1)} dB${trait.inverted ? ', inverted' : ''}`
    case 'band': {
      const { type, hz, db, q } = trait.band
      const gain = hasGain(type) ? ` ${db > 0 ? '+' : ''}${db.toFixed(1)} dB` : ''
      const width = type === 'bell' || type === 'notch' ? `, Q ${q.toFixed(1)}` : ''
      return `${type.replace('-', ' ')} ${hzWords(hz)}${gain}${width}${trait.on ? '' : ' (off)'}`
    }
    case 'treatment': {
      const { kind, params, on } = trait.treatment
      const { name, describe } = kindOf(kind)
      return `${name}: ${describe(params)}${on ? '' : ' (off)'}`
    }
  }
}

function panWords(pan: number): string {
  if (pan === 0) return 'pan centre'
  return `pan ${Math.round(100 * Math.abs(pan))} % ${pan < 0 ? 'left' : 'right'}`
}

const hzWords = (hz: number) =>
  hz >= 1000 ? `${Number((hz / 1000).toPrecision(3))} kHz` : `${Number(hz.toPrecision(3))} Hz`
