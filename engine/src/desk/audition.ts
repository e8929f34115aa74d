import { newBand } from '@sober-prism/core/filters'
import { LIFT_DB, type Stretch } from '@sober-prism/core/mix'
import {
  applyEdits,
  chainOf,
  type Edit,
  emptyChain,
  newTrack,
  referencePassage,
  type Session,
  sessionWithChain,
  withIdentities,
} from '@sober-prism/core/session'
import { type ChainBand, MIX, newChainBand, newTreatment } from '@sober-prism/core/treatments'
import type { SessionFinding } from '../analysis/session-finding'
import type { FrequencyRange, HuntPlace, Rendition } from './desk'

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
    chainBand: newChainBand(newId(), band),
  }))
}

/**
 * A session with an equaliser more on a node, the last thing its sound goes through before its output: for listening
 * only, also where the chain holds as much as it may.
 */
function heardThrough(
  session: Session,
  node: string,
  id: string,
  chainBands: ChainBand[],
): Session {
  const chain = chainOf(session, node)
  if (!chain) return session
  const params = { phase: 'minimum' as const, bands: chainBands }
  const treatments = [...chain.treatments, newTreatment('equaliser', id, 'shape', params)]
  return sessionWithChain(session, node, { ...chain, treatments })
}

/** A session in which one node alone is heard. */
function alone(session: Session, node: string): Session {
  if (node === MIX) return session
  return applyEdits(session, [{ kind: 'set-node', node, change: { solo: true } }])
}

/** The boost of a hunt. */
export function huntState(session: Session, { node, hz, q, db }: HuntPlace): Session {
  const band = { ...newBand('bell', hz), q, db }
  return heardThrough(session, node, 'hunt', [newChainBand('hunt', band)])
}

/** A range is heard no narrower than this, so that it is a sound and not a tone. */
const NARROWEST_Q = 6

/** What lets only a band's range be heard, its node alone; or all but that range. Nothing where the band is gone. */
export function bandState(
  session: Session,
  { node, band, way }: Extract<Rendition, { kind: 'band' }>,
): Session {
  const chainBands = (chainOf(session, node)?.treatments ?? []).flatMap((t) =>
    t.kind === 'equaliser' ? t.params.bands : [],
  )
  const chainBand = chainBands.find((m) => m.id === band)
  if (!chainBand) return session
  const { hz, q } = chainBand.band
  const type = way === 'only' ? 'band-pass' : 'notch'
  const range = { ...newBand(type, hz), q: Math.max(0.5, Math.min(NARROWEST_Q, q)) }
  // Twice, so that what lies beside it falls by 12 dB per octave.
  const bands = ['band-1', 'band-2'].map((id) => newChainBand(id, range))
  if (way === 'rest') return heardThrough(session, node, 'band', bands.slice(0, 1))
  return alone(heardThrough(session, node, 'band', bands), node)
}

/** What lets only a range of a node's sound be heard: steep cuts at its edges, its node alone. */
export function rangeState(
  session: Session,
  node: string,
  { fromHz, toHz }: FrequencyRange,
): Session {
  const edge = (type: 'low-cut' | 'high-cut', hz: number) =>
    newChainBand(type, { ...newBand(type, Math.max(20, Math.min(20000, hz))), slopeDbPerOct: 48 })
  const bands = [edge('low-cut', fromHz), edge('high-cut', toHz)]
  return alone(heardThrough(session, node, 'range', bands), node)
}

/**
 * A session in which a reference stands in place of everything: what of it is listened to begins where the passage does.
 */
export function referenceState(session: Session, id: string): Session {
  const reference = session.references.find((r) => r.id === id)
  const chain = emptyChain()
  const mix = { ...session.mix, faderDb: 0, chain }
  if (!reference) return { ...session, tracks: [], groups: [], leadIds: [], mix }
  const { name, audio } = reference
  const offset = (session.passage?.fromFrame ?? 0) - referencePassage(session, reference).fromFrame
  const track = newTrack('reference', name, 'other', 'R', audio, offset)
  return { ...session, tracks: [track], groups: [], leadIds: [], mix }
}

/** Where a reference stands on the time line of the session while it is heard; null where it is gone. */
export function referenceStretch(session: Session, id: string): Stretch | null {
  const reference = session.references.find((r) => r.id === id)
  if (!reference) return null
  const own = referencePassage(session, reference)
  const fromFrame = session.passage?.fromFrame ?? 0
  return { fromFrame, toFrame: fromFrame + own.toFrame - own.fromFrame }
}
