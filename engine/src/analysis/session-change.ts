import { type Chain, groupsAbove, type Session, type Track } from '@sober-prism/core/session'
import {
  MIX,
  respondChain,
  type StereoPart,
  type Treatment,
  workingsOf,
} from '@sober-prism/core/treatments'

/** What changes of a node between two states of a session, as far as it stands still. */
export interface NodeChange {
  /** Of its level behind its chain, and those of its groups, in dB at some frequencies. */
  db(hz: ArrayLike<number>, part: StereoPart): Float64Array
  /** Of the gain at which it stands in the mix, in dB. */
  readonly gainDb: number
}

/** What changes, by track; and of the chain of each group and the mix. Only what does is in it. */
export interface SessionChange {
  readonly tracks: ReadonlyMap<string, NodeChange>
  readonly buses: ReadonlyMap<string, NodeChange>
}

/** Level at which what is muted stands, in dB: nothing of it is heard. */
const MUTED_DB = -200

/** Level at which a track stands in the mix, in dB: its fader, its groups' and the mix's. */
export function standingDb(session: Session, track: Track): number {
  const above = groupsAbove(session, track.id)
  if (track.mute || above.some((g) => g.mute)) return MUTED_DB
  return above.reduce((sum, g) => sum + g.faderDb, track.faderDb + session.mix.faderDb)
}

interface Treated {
  readonly chain: Chain
  readonly trimDb: number
}

/**
 * What changed since a state was measured; null where that cannot be told from responses: another sound, another way of it,
 * or treatments that move.
 */
export function changeSince(before: Session, now: Session): SessionChange | null {
  if (!isSameWays(before, now)) return null
  const rate = now.sampleRateHz
  const buses = new Map<string, NodeChange>()
  const [were, are] = [before, now].map((s) => [...s.groups, { ...s.mix, id: MIX }])
  for (const [i, { id, ...bus }] of are.entries()) {
    const db = chainChange(were[i], bus, rate)
    if (db === undefined) return null
    const gainDb = bus.faderDb - were[i].faderDb
    if (db || gainDb !== 0) buses.set(id, { db: db ?? unchanged, gainDb })
  }
  const tracks = new Map<string, NodeChange>()
  for (const [i, track] of now.tracks.entries()) {
    const own = chainChange(before.tracks[i], track, rate)
    if (own === undefined) return null
    const above = groupsAbove(now, track.id).map((g) => buses.get(g.id)?.db ?? unchanged)
    const parts = [own ?? unchanged, ...above].filter((db) => db !== unchanged)
    const gainDb = standingDb(now, track) - standingDb(before, before.tracks[i])
    if (parts.length > 0 || gainDb !== 0) tracks.set(track.id, { db: summed(parts), gainDb })
  }
  return { tracks, buses }
}

type Response = NodeChange['db']

const unchanged: Response = (hz) => new Float64Array(hz.length)

function summed(parts: readonly Response[]): Response {
  return (hz, part) => {
    const sum = new Float64Array(hz.length)
    for (const response of parts) {
      const db = response(hz, part)
      for (let i = 0; i < sum.length; i++) sum[i] += db[i]
    }
    return sum
  }
}

/** Whether the same recordings flow the same ways, and are heard over the same passage. */
function isSameWays(before: Session, now: Session): boolean {
  const ways = ({ tracks, groups, ...s }: Session) =>
    JSON.stringify([
      tracks.map((t) => [t.id, t.audio.hash, t.offsetFrames, t.pan, t.output]),
      groups.map((g) => [g.id, g.pan, g.output]),
      [s.passage, s.sampleRateHz, s.listeningDbSpl, s.listening],
    ])
  return ways(before) === ways(now)
}

/** What changes behind a chain; null where nothing does, undefined where it cannot be told. */
function chainChange(before: Treated, now: Treated, rate: number): Response | null | undefined {
  if (before.chain === now.chain && before.trimDb === now.trimDb) return null
  if (!isSameMoving(before.chain.treatments, now.chain.treatments)) return undefined
  const gainOf = ({ chain, trimDb }: Treated) => trimDb + chain.output.gainDb
  const gainDb = gainOf(now) - gainOf(before)
  return (hz, part) => {
    const [was, is] = [before, now].map((t) => respondChain(t.chain.treatments, rate, part).db(hz))
    return is.map((db, i) => db - was[i] + gainDb)
  }
}

/** Whether what moves from moment to moment is as it was, in the same order. */
function isSameMoving(before: readonly Treatment[], now: readonly Treatment[]): boolean {
  const moving = (list: readonly Treatment[]) =>
    list.filter((t) => t.on && !workingsOf(t.kind).response).map((t) => [t.params, t.key])
  const [was, is] = [moving(before), moving(now)]
  return (
    was.length === is.length &&
    is.every(([params, key], i) => params === was[i][0] && key === was[i][1])
  )
}
