import type { EqBand } from '../../filters'
import type { Edit } from '../../session'
import { newTreatment } from '../../treatments'
import { bandMove, treatmentMove } from '../survey-input'
import { bestPlaces, isTooMuch } from './band-places'
import { roundedBell } from './masking-places'
import { followBand } from './propose-follow'
import type { Effect, Trial } from './trial'

/** What makes room on one track: a band that stays, or one that is there only while another track sounds. */
export interface Room {
  /** The track that is treated, by its place among all. */
  readonly owner: number
  readonly band: EqBand
  /** The track that the band follows; null where it stays. */
  readonly follows: number | null
  /** Change of the track's output that goes with it, in dB. */
  readonly outputDb: number
  readonly effect: Effect
  /** What it is worth: see {@link worthOf}. */
  readonly worth: number
}

/** Widths that are tried; gains of cuts and of boosts: the one that is tried first for each place and width, and the others. */
const QS = [0.5, 0.7, 1, 1.4, 2] as const
const CUTS_DB = [-3, -1.5, -4.5, -6] as const
const BOOSTS_DB = [1, 1.5, 2, 2.5, 3] as const
/** Places that are tried for each width, and how many of place and width are tried at other depths. */
const MOST_PLACES = 2
const MOST_DEEPER = 2
/** Sones of leads count this many times. */
export const LEAD_WEIGHT = 10
/** A sone of a track's tone that moves elsewhere counts as much as this many sones won: broad deep cuts are dear. */
const TONE_WEIGHT = 2
/** No track's own level changes by more than this, in LU: 1.5 is promised; gated loudness may differ from power. */
const MOST_LU = 1.4
/** A cut that follows takes the place of one that stays where it wins this part of it for this part of the cost. */
const AS_WELL = 0.85
const CLEARLY_LESS = 0.7

/** What a move brings, leads counted more, less what it does to the tone of what is treated. */
function worthOf(
  { inMixSone, toneSone }: Effect,
  { owner, leads, cost = 1 }: Pick<RoomQuestion, 'owner' | 'leads' | 'cost'>,
): number {
  let won = 0
  for (const [t, sone] of inMixSone.entries()) {
    won += (leads.includes(t) ? LEAD_WEIGHT : t === owner ? cost : 1) * sone
  }
  return won - cost * TONE_WEIGHT * toneSone
}

/** What the treated track pays: sones of its loudness in the mix, and of its tone moved elsewhere. */
function costOf({ inMixSone, toneSone }: Effect, owner: number): number {
  return Math.max(0, -inMixSone[owner]) + toneSone
}

/** What brings the treated track back to within the limit of its own loudness, in dB. */
function trimFor(trial: Trial, owner: number, band: EqBand): number {
  const short = -trial.levelSinceStart(owner, [band]) - MOST_LU
  return short > 0 ? Math.ceil(10 * short) / 10 : 0
}

/** What a band is looked for on. */
export interface RoomQuestion {
  /** The track to be treated, by its place among all. */
  readonly owner: number
  /** Whether it is cut for others, or raised itself. */
  readonly kind: 'cut' | 'boost'
  /** What is lost, per auditory filter, as it counts: bands stand where most of that lies. */
  readonly lost: Float64Array
  readonly leads: readonly number[]
  /** Bands that the track has by moves before. */
  readonly made: readonly EqBand[]
  /** What the treated track pays counts so much of what it does otherwise. */
  readonly cost?: number
}

/** The band on one track that is worth most, on top of what was made in the trial before; null where none is worth anything. */
export function proposeRoom(trial: Trial, question: RoomQuestion): Room | null {
  const { owner, kind, lost, made } = question
  const attempt = (hz: number, db: number, q: number): Room | null => {
    const band = roundedBell(hz, db, q)
    if (isTooMuch(made, band, trial.sampleRateHz)) return null
    if (db > 0 && trial.levelSinceStart(owner, [band]) > MOST_LU) return null
    const outputDb = trimFor(trial, owner, band)
    const effect = trial.tryMove(owner, [band], outputDb)
    return { owner, band, follows: null, outputDb, effect, worth: worthOf(effect, question) }
  }
  const [firstDb, ...othersDb] = kind === 'cut' ? CUTS_DB : BOOSTS_DB
  const first = QS.flatMap((q) =>
    bestPlaces(lost, q, MOST_PLACES).flatMap((hz) => attempt(hz, firstDb, q) ?? []),
  ).sort((a, b) => b.worth - a.worth)
  const others = first
    .slice(0, MOST_DEEPER)
    .flatMap(({ band: { hz, q } }) => othersDb.flatMap((db) => attempt(hz, db, q) ?? []))
  const all = [...first, ...others]
  const any = bestOf(all)
  // A cut that must be made up for by a gain takes too much at rest: only where it follows, or nothing else is there.
  const resting = bestOf(all.filter((room) => room.outputDb === 0)) ?? any
  return (
    (any && followInstead(trial, any, question)) ??
    (resting && (followInstead(trial, resting, question) ?? resting))
  )
}

function bestOf(rooms: readonly Room[]): Room | null {
  return rooms.reduce<Room | null>(
    (most, room) => (room.worth > (most?.worth ?? 0) ? room : most),
    null,
  )
}

/**
 * The same cut that is there only while the lead that wins most by it sounds, where that does as well and costs the track
 * clearly less; a cut that stays is the first choice.
 */
function followInstead(trial: Trial, still: Room, question: RoomQuestion): Room | null {
  const { leads } = question
  const { owner, band, effect } = still
  if (band.db >= 0 || leads.length === 0) return null
  const won = ({ inMixSone }: Effect) => leads.reduce((sum, t) => sum + inMixSone[t], 0)
  const key = leads.reduce((a, b) => (effect.inMixSone[b] > effect.inMixSone[a] ? b : a))
  if (effect.inMixSone[key] <= 0) return null
  const moving = trial.tryFollow(owner, key, band)
  const isAsGood = won(moving) >= AS_WELL * won(effect)
  if (!isAsGood || costOf(moving, owner) > CLEARLY_LESS * costOf(effect, owner)) return null
  return { ...still, follows: key, outputDb: 0, effect: moving, worth: worthOf(moving, question) }
}

/** Makes it in a trial. */
export function makeRoom(trial: Trial, { owner, band, follows, outputDb }: Room): void {
  if (follows === null) trial.apply(owner, [band], outputDb)
  else trial.applyFollow(owner, follows, band)
}

/** What another trial says that it does, from where that stands. */
export function effectIn(trial: Trial, { owner, band, follows, outputDb }: Room): Effect {
  return follows === null
    ? trial.tryMove(owner, [band], outputDb)
    : trial.tryFollow(owner, follows, band)
}

/** It as edits. @param ids of all tracks. */
export function roomEdits(
  { owner, band, follows, outputDb }: Room,
  ids: readonly string[],
): Edit[] {
  const node = ids[owner]
  if (follows !== null) {
    const { params } = newTreatment('follow', 'proposed', 'fit')
    const bands = [followBand('proposed', { hz: band.hz, q: band.q, rangeDb: band.db })]
    const follow = newTreatment('follow', 'proposed', 'fit', { ...params, bands })
    const key = { node: ids[follows], tap: 'after-fader', as: 'mono' } as const
    return [treatmentMove(node, { ...follow, key })]
  }
  const move = bandMove(node, 'fit', band)
  return outputDb === 0 ? [move] : [move, { kind: 'change-output-gain', node, db: outputDb }]
}
