import { newBand } from '@sober-prism/core/filters'
import { LIFT_DB } from '@sober-prism/core/mix'
import { type Edit, withIdentities } from '@sober-prism/core/session'
import { MIX, newMark, newTreatment } from '@sober-prism/core/treatments'
import type { SessionFinding } from '../analysis/session-finding'
import type { HuntPlace } from './desk'

/** What is heard of a finding: its band brought forward, its moves in, or the session as it stands. */
export type AuditionMode = 'forward' | 'moves' | 'without'

/** How far a band is brought forward, in dB. */
const FORWARD_DB = LIFT_DB + 3

/** What is done to the session for an audition. */
export function auditionEdits(finding: SessionFinding, mode: AuditionMode): Edit[] {
  let count = 0
  const newId = () => `audition-${++count}`
  if (mode === 'without') return []
  if (mode === 'moves') return withIdentities(finding.moves, newId)
  const { hz, fromHz, toHz } = finding
  const q = Math.max(0.5, Math.min(12, hz / Math.max(1, toHz - fromHz)))
  const band = { ...newBand('bell', Math.max(20, Math.min(20000, hz))), db: FORWARD_DB, q }
  const nodes = finding.tracks.length > 0 ? finding.tracks : [MIX]
  return nodes.map((node) => ({
    kind: 'add-band',
    node,
    stage: 'shape',
    treatment: null,
    newTreatment: newId(),
    mark: newMark(newId(), band),
  }))
}

/** The boost of a hunt: an equaliser of its own, the last thing a node's sound goes through before its fader. */
export function huntEdit({ node, hz, q, db }: HuntPlace): Edit {
  const band = { ...newBand('bell', hz), q, db }
  const params = { phase: 'minimum' as const, bands: [newMark('hunt', band)] }
  const treatment = newTreatment('equaliser', 'hunt', 'shape', params)
  return { kind: 'add-treatment', node, treatment, before: null }
}
