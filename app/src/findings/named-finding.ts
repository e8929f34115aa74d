import {
  findingEvidence,
  findingTitle,
  moveSentence,
  type NamedFinding,
  othersOf,
} from '@sober-prism/core/findings'
import type { Edit, Session } from '@sober-prism/core/session'
import { type Measure, MIX, NO_HUM_DB } from '@sober-prism/core/treatments'
import type { SessionFinding } from '@sober-prism/engine'
import { formatHz, formatShare, signed } from '../format'
import { nodeName } from '../store/selectors'

/** A finding's words, with the names that tracks have now. */
export function findingWords(session: Session, finding: SessionFinding) {
  const named: NamedFinding = {
    ...finding,
    names: finding.tracks.map((t) => nodeName(session, t)),
    othersNamed: othersOf(finding.evidence).map((t) => nodeName(session, t)),
  }
  return {
    title: findingTitle(named),
    evidence: findingEvidence(named),
    moves: finding.moves.map((move) => moveWords(session, move)),
  }
}

export function moveWords(session: Session, move: Edit): string {
  const node = 'node' in move ? move.node : MIX
  return moveSentence(move, node === MIX ? 'the mix' : nodeName(session, node))
}

/** What a measure is called: `Singer heard`. */
export function measureName(session: Session, measure: Measure): string {
  const name = (id: string) => (id === MIX ? 'the mix' : nodeName(session, id))
  switch (measure.of) {
    case 'heard':
      return `${name(measure.track)} heard`
    case 'level':
      return `${formatHz(measure.fromHz)} to ${formatHz(measure.toHz)} in ${name(measure.track)}, relative to ${measure.against === 'beside' ? 'neighbouring bands' : 'the whole track'}`
    case 'sides':
      return `sides of ${name(measure.track)} below ${formatHz(measure.belowHz)}`
    case 'understood':
      return `words of ${name(measure.track)} understood (Speech Intelligibility Index)`
    case 'low-in-mono':
      return `level of ${name(measure.track)} below ${formatHz(measure.belowHz)} in mono, relative to the whole track`
    case 'hum':
      return `hum in ${name(measure.track)}, relative to the track`
    case 'cancelled':
      return `lost when ${measure.tracks.map(name).join(' and ')} are summed`
  }
}

export function measureFigure(measure: Measure, value: number | null): string {
  if (measure.of === 'hum' && value !== null && value <= NO_HUM_DB) return 'none'
  if (value === null || !Number.isFinite(value)) return '–'
  if (measure.of === 'understood') return value.toFixed(2)
  const isShare = measure.of === 'heard' || measure.of === 'sides'
  return isShare ? formatShare(value, 1) : `${signed(value, 1)} dB`
}
