import type { Finding, Measure, Owner, Plan, ProposedMove, Times } from '@sober-prism/core/findings'
import type { EqBand, MoveMeasure, Session, StageName } from '@sober-prism/core/session'

/** A chain's owner by id, or `mix`. */
export type OwnerId = string

/** A proposed move with its owner by id. */
export type SessionMove =
  | {
      readonly kind: 'band'
      readonly owner: OwnerId
      readonly stage: StageName
      readonly band: EqBand
    }
  | {
      readonly kind: 'align'
      readonly owner: OwnerId
      readonly shiftFrames: number
      readonly invert: boolean
    }

/** A finding with tracks by their ids, and the fingerprint of the sound it was found in. */
export interface SessionFinding
  extends Omit<Finding, 'tracks' | 'moves' | 'predicted' | 'times' | 'key'> {
  readonly key: string
  readonly state: string
  readonly tracks: readonly string[]
  /** Times on the session's time line. */
  readonly times: readonly Times[]
  readonly moves: readonly SessionMove[]
  readonly predicted: {
    readonly measure: MoveMeasure
    readonly before: number
    readonly after: number
  } | null
}

/** A plan with tracks by their ids. */
export interface SessionPlan {
  /** Share heard of each track before any step, by id. */
  readonly heardBefore: ReadonlyMap<string, number>
  readonly steps: readonly {
    readonly owner: string
    readonly stage: StageName
    readonly band: EqBand
    readonly trimDb: number
    readonly gainSone: number
    readonly heard: ReadonlyMap<string, number>
    readonly levelLu: number
  }[]
}

/** Puts ids for indices. @param ids tracks in the order in which they were surveyed. */
export function toSessionFinding(
  finding: Finding,
  ids: readonly string[],
  session: Session,
  fromSeconds: number,
): SessionFinding {
  const tracks = finding.tracks.map((t) => ids[t])
  const owner = (o: Owner): OwnerId => (o === 'mix' ? 'mix' : ids[o])
  const place = Math.round(8 * Math.log2(finding.hz))
  return {
    ...finding,
    key: `${finding.kind} ${tracks.join(' ')} ${place}`,
    state: soundState(session, tracks),
    tracks,
    times: finding.times.map((t) => ({
      fromSeconds: t.fromSeconds + fromSeconds,
      toSeconds: t.toSeconds + fromSeconds,
    })),
    moves: finding.moves.map((m) =>
      m.kind === 'band' ? { ...m, owner: owner(m.owner) } : { ...m, owner: ids[m.owner] },
    ),
    predicted: finding.predicted && {
      ...finding.predicted,
      measure: toSessionMeasure(finding.predicted.measure, ids),
    },
  }
}

function toSessionMeasure(measure: Measure, ids: readonly string[]): MoveMeasure {
  switch (measure.of) {
    case 'heard':
    case 'sides':
      return { ...measure, track: ids[measure.track] }
    case 'level':
      return { ...measure, track: measure.track === 'mix' ? 'mix' : ids[measure.track] }
    case 'cancelled':
      return { of: 'cancelled', tracks: [ids[measure.tracks[0]], ids[measure.tracks[1]]] }
  }
}

/** The other way round: indices for ids. Null when a track is not among those surveyed. */
export function toProposedMoves(
  moves: readonly SessionMove[],
  ids: readonly string[],
): ProposedMove[] | null {
  const made: ProposedMove[] = []
  for (const move of moves) {
    const index = ids.indexOf(move.owner)
    if (move.kind === 'align') {
      if (index < 0) return null
      made.push({ ...move, owner: index })
    } else {
      if (index < 0 && move.owner !== 'mix') return null
      made.push({ ...move, owner: move.owner === 'mix' ? 'mix' : index })
    }
  }
  return made
}

/** The other way round: indices for ids. Null when a track is not among those surveyed. */
export function toMeasure(measure: MoveMeasure, ids: readonly string[]): Measure | null {
  const index = (id: string) => ids.indexOf(id)
  switch (measure.of) {
    case 'heard':
    case 'sides':
      return index(measure.track) < 0 ? null : { ...measure, track: index(measure.track) }
    case 'level':
      if (measure.track === 'mix') return { ...measure, track: 'mix' }
      return index(measure.track) < 0 ? null : { ...measure, track: index(measure.track) }
    case 'cancelled': {
      const [a, b] = measure.tracks.map(index)
      return a < 0 || b < 0 ? null : { of: 'cancelled', tracks: [a, b] }
    }
  }
}

export function toSessionPlan(plan: Plan, ids: readonly string[]): SessionPlan {
  const byId = (shares: readonly number[]) => new Map(shares.map((v, i) => [ids[i], v]))
  return {
    heardBefore: byId(plan.heardBefore),
    steps: plan.steps.map(({ move, trimDb, gainSone, heard, levelLu }) => ({
      owner: ids[move.owner],
      stage: move.stage,
      band: move.band,
      trimDb,
      gainSone,
      heard: byId(heard),
      levelLu,
    })),
  }
}

/**
 * Fingerprint of the sound and moves of some tracks, or of everything for none: a dismissed finding comes
 * back when it changes.
 */
export function soundState(session: Session, tracks: readonly string[]): string {
  const concerned = session.tracks.filter((t) => tracks.length === 0 || tracks.includes(t.id))
  const text = JSON.stringify([
    concerned.map((t) => [t.audio.hash, t.chain, t.offsetFrames]),
    tracks.length === 0 ? session.mix.chain : null,
  ])
  // FNV-1a, twice with different seeds: enough to tell states apart.
  return [0x811c9dc5, 0x01000193]
    .map((seed) => {
      let hash = seed
      for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
      return (hash >>> 0).toString(16).padStart(8, '0')
    })
    .join('')
}
