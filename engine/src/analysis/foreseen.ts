import { CHANGE_HZ, type MixReading, type TrackChange } from '@sober-prism/core/findings'
import { kWeightingDb } from '@sober-prism/core/loudness'
import { groupsAbove, type Session } from '@sober-prism/core/session'
import { makeBands } from '@sober-prism/core/spectrum'
import { MIX } from '@sober-prism/core/treatments'
import type { Measured } from '../questions/levels'
import type { Analysis, HeardTrack } from './analysis'
import { type NodeChange, type SessionChange, standingDb } from './session-change'

const BANDS_HZ = makeBands('sixth').map((b) => b.hz)
const K_DB = BANDS_HZ.map((hz) => kWeightingDb(hz))

type Levels = Pick<Analysis, 'tracks' | 'groups' | 'mix'>

/** Levels and loudness of another state of a session, from what was measured of one. @param before when it was measured. */
export function foreseenLevels(
  measured: Levels,
  before: Session,
  now: Session,
  change: SessionChange,
): Levels {
  const tracks = new Map(measured.tracks)
  for (const [id, { db }] of change.tracks) {
    const was = tracks.get(id)
    if (was) tracks.set(id, { ...was, ...moved(was, db(BANDS_HZ, 'mid')) })
  }
  const groups = new Map(measured.groups)
  for (const { id } of now.groups) {
    const was = groups.get(id)
    const inside = now.tracks.filter((t) => groupsAbove(now, t.id).some((g) => g.id === id))
    if (!was || !inside.some((t) => change.tracks.has(t.id))) continue
    // It is measured before its own fader and those above it.
    const above = [id, ...groupsAbove(now, id).map((g) => g.id), MIX]
    const faders = above.reduce((sum, bus) => sum + (change.buses.get(bus)?.gainDb ?? 0), 0)
    const by = summedChange(inside, measured, before, change).map((db) => db - faders)
    groups.set(id, { ...was, ...moved(was, by) })
  }
  if (!measured.mix || (change.tracks.size === 0 && change.buses.size === 0)) {
    return { tracks, groups, mix: measured.mix }
  }
  const bus = change.buses.get(MIX)
  const chain = bus ? bus.db(BANDS_HZ, 'mid') : null
  const by = summedChange(now.tracks, measured, before, change).map(
    (db, b) => db + (chain?.[b] ?? 0),
  )
  const mix: MixReading = { ...measured.mix, ...moved(measured.mix, by) }
  return { tracks, groups, mix }
}

/** What the sum of tracks gains in each band, each adding to the others as unrelated sounds do. */
function summedChange(
  tracks: readonly Session['tracks'][number][],
  measured: Levels,
  before: Session,
  change: SessionChange,
): Float64Array {
  const [was, is] = [new Float64Array(BANDS_HZ.length), new Float64Array(BANDS_HZ.length)]
  for (const { id } of tracks) {
    const track = before.tracks.find((t) => t.id === id)
    const levels = measured.tracks.get(id)?.levels
    if (!track || !levels) continue
    const own: NodeChange | undefined = change.tracks.get(id)
    const db = own?.db(BANDS_HZ, 'mid')
    const standing = standingDb(before, track)
    for (let b = 0; b < was.length; b++) {
      was[b] += 10 ** ((levels[b] + standing) / 10)
      is[b] += 10 ** ((levels[b] + standing + (db?.[b] ?? 0) + (own?.gainDb ?? 0)) / 10)
    }
  }
  return is.map((power, b) => (was[b] > 0 ? 10 * Math.log10(Math.max(1e-20, power / was[b])) : 0))
}

/** Levels that change by so much, and the loudness with them. */
function moved({ levels, lufs }: Measured, by: ArrayLike<number>): Measured {
  const after = levels.map((db, b) => db + by[b])
  const weighted = (of: Float64Array) =>
    of.reduce((sum, db, b) => sum + 10 ** ((db + K_DB[b]) / 10), 0)
  const [was, is] = [weighted(levels), weighted(after)]
  return {
    levels: after,
    lufs: lufs === null || was <= 0 ? lufs : lufs + 10 * Math.log10(is / was),
  }
}

/** What a model of hearing is told of what changes, per track. */
export function changesForHearing({ tracks }: SessionChange): TrackChange[] {
  return [...tracks].map(([id, { db, gainDb }]) => ({
    id,
    midDb: db(CHANGE_HZ, 'mid').map((v) => v + gainDb),
    sideDb: db(CHANGE_HZ, 'side').map((v) => v + gainDb),
  }))
}

/** Shares heard that change by so much: what is lost is lost in the same proportion to hidden and crowded as before. */
export function foreseenHeard(
  measured: Analysis['heard'],
  changes: ReadonlyMap<string, number>,
): Analysis['heard'] {
  return new Map(
    [...measured].map(([id, was]): [string, HeardTrack] => {
      const change = changes.get(id) ?? 0
      if (change === 0) return [id, was]
      const share = Math.min(1, Math.max(0, was.share + change))
      const lost = was.share < 1 ? (1 - share) / (1 - was.share) : 0
      const [hidden, crowded] = [was.hidden * lost, was.crowded * lost]
      const over = Math.max(1, hidden + crowded)
      const parts = { hidden: hidden / over, crowded: crowded / over }
      return [
        id,
        {
          ...was,
          share,
          ...parts,
          clear: Math.max(0, 1 - parts.hidden - parts.crowded),
          inMixSone: was.aloneSone * share,
        },
      ]
    }),
  )
}
