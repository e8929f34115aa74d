import { bandEdgeHz, FILTER_COUNT, pairMasking, trackMasking } from '../../hearing'
import { type Finding, LEAST_SONE } from '../finding'
import { areOneSource, type Context, placeKey } from '../survey-input'
import { type MaskingPlace, maskingPlaces, sumOf } from './masking-places'
import {
  effectIn,
  LEAD_WEIGHT,
  makeRoom,
  proposeRoom,
  type Room,
  type RoomQuestion,
  roomEdits,
} from './room'
import { Trial } from './trial'

/** Loudness that any company costs: this share of a lead's own, or of another track's, is no fault. */
const COMPANY = { lead: 0.028, other: 0.06 } as const
/** Of what a track loses to one other so much counts in any case. */
const LEAST_COUNTED = 0.1
/** What is lost to a track that is no lead counts for less where no lead is concerned. */
const ASIDE = 0.3
/** A masker is named for a track that is no lead when at least this part of the loss is its doing. */
const LEAST_PART = 0.3
/** A cut that brings back this part of what is lost makes all of it avoidable; of the rest this part counts. */
const AVOIDABLE_SHARE = 0.25
const UNAVOIDABLE = 0.6
/** Places that are looked at, at most. */
const MOST_TRIED = 24
/** Places of one masker that share this part of the narrower one are one trouble. */
const SAME_RANGE = 0.4
/** What others of a trouble lose counts this part of what the worst one does. */
const OTHERS = 0.5
/** A move is offered where it wins so much in all, in sone, and such a share of the loudness of the track that it is for. */
export const LEAST_OFFERED = { sone: 0.1, share: 0.005 } as const
/** For a track that is no lead it must win so many times as much. */
const ASIDE_TIMES = 2
/** Below this a range belongs to the track that lives there: that has so many times as much of its loudness in it. */
const LOW_HZ = 250
const AT_HOME = 1.5
/** Harm from which on a cut may cost its masker more: what that pays counts so much. */
const SEVERE_SONE = 0.3
const SEVERE_COST = 0
/** ... and is worth this much, what it costs taken off. */
const LEAST_WORTH = 0.2
/** Tracks that win this much by a move are named beside the first, in sone. */
const NAMED_SONE = 0.05
const MOST_PER_TRACK = 2
/** Moments on which moves are searched for; what they do is told on more. */
const SEARCH_FRAMES = 64

/** A place with the harm that is done there. */
interface Candidate {
  readonly place: MaskingPlace
  readonly severity: number
}

/** What one track does to one or several others in one range. */
interface Trouble {
  readonly worst: Candidate
  readonly others: readonly Candidate[]
}

/**
 * Masking: one finding for what one track takes from others in one range. Where a move on it wins something worth having,
 * on top of the moves of the findings before it, the finding offers that move; else it is only measured.
 */
export function maskingFindings(
  context: Context,
  others: readonly Finding[],
  onProgress: (share: number) => void,
): Finding[] {
  const { tracks, masked, settings } = context
  const candidates = onceEach(maskingCandidates(context), context)
    .filter(({ place }) => !others.some((f) => isSameCrowd(f, place, context)))
    .slice(0, MOST_TRIED)
    // Two that carry one source do not cover each other: they add up.
    .filter(({ place: { target, masker } }) => !areOneSource(context, target, masker))
  const troubles = troublesOf(candidates)
  const search = new Trial(masked, { ...settings, frames: SEARCH_FRAMES })
  const leads = tracks.flatMap((t, i) => (t.isLead ? [i] : []))
  const made = new Map<number, Room[]>()
  return troubles.map((trouble, index) => {
    onProgress(index / troubles.length)
    const { masker } = trouble.worst.place
    const before = made.get(masker) ?? []
    const question: RoomQuestion = {
      owner: masker,
      kind: 'cut',
      lost: lostIn(trouble, context),
      leads,
      made: before.map((r) => r.band),
    }
    // What harms much may cost its masker more of its tone.
    const costs = trouble.worst.severity >= SEVERE_SONE ? [1, SEVERE_COST] : [1]
    const rooms = before.length >= MOST_PER_TRACK ? [] : costs
    let [room, answer]: [Room | null, Answer | null] = [null, null]
    for (const cost of rooms) {
      room = proposeRoom(search, { ...question, cost })
      answer = room && room.worth >= LEAST_WORTH ? answerBy(room, trouble, context) : null
      if (answer) break
    }
    if (answer && room) {
      makeRoom(search, room)
      made.set(masker, [...before, room])
    }
    return findingOf(trouble, answer, context)
  })
}

/** What of a trouble a move takes away, or null where that is too little to be offered. */
interface Answer {
  readonly room: Room
  /** The track that it is for, and others that win by it. */
  readonly target: number
  readonly freed: readonly number[]
  readonly gainSone: number
}

function answerBy(room: Room, trouble: Trouble, context: Context): Answer | null {
  const { tracks, trial, sums } = context
  const { inMixSone } = effectIn(trial, room)
  const others = inMixSone.reduce((sum, sone, t) => sum + (t === room.owner ? 0 : sone), 0)
  const places = [trouble.worst, ...trouble.others].map(({ place }) => place)
  // What it is for: what the trouble is named for, or another of it that wins where that one does not.
  const target = places.find((place) => {
    const times = tracks[place.target].isLead ? 1 : ASIDE_TIMES
    const share = inMixSone[place.target] / Math.max(1e-9, trial.loudness[place.target].aloneSone)
    const isEnough = others >= times * LEAST_OFFERED.sone && share >= times * LEAST_OFFERED.share
    return isEnough && !isAtHome(sums, place)
  })?.target
  if (target === undefined) return null
  const freed = tracks.flatMap((_, t) =>
    t !== target && t !== room.owner && inMixSone[t] >= NAMED_SONE ? [t] : [],
  )
  return { room, target, freed, gainSone: inMixSone[target] }
}

/** Whether a place lies in lows in which the masker lives and the target does not: a bass owns its range. */
function isAtHome(sums: Context['sums'], { target, masker, from, to }: MaskingPlace): boolean {
  if (bandEdgeHz(to) > LOW_HZ) return false
  const part = (track: number) => {
    const { alone } = trackMasking(sums, track)
    return sumOf(alone, from, to) / Math.max(1e-9, sumOf(alone, 0, FILTER_COUNT))
  }
  return part(masker) >= AT_HOME * part(target)
}

function findingOf(
  { worst, others }: Trouble,
  answer: Answer | null,
  { tracks, trial }: Context,
): Finding {
  const ids = tracks.map((t) => t.id)
  const named =
    [worst, ...others].find(({ place }) => place.target === answer?.target)?.place ?? worst.place
  const { target, masker, from, to, hz, lostSone, lostShare, where, timeShare, times } = named
  const { aloneSone, inMixSone } = trial.loudness[target]
  const gainSone = answer?.gainSone ?? 0
  const avoidable = Math.min(1, gainSone / (AVOIDABLE_SHARE * lostSone))
  const harm = worst.severity + OTHERS * others.reduce((sum, c) => sum + c.severity, 0)
  return {
    key: `masking ${ids[masker]} ${ids[target]} ${placeKey(hz)}`,
    kind: 'masking',
    tracks: [ids[masker], ids[target]],
    hz,
    fromHz: bandEdgeHz(from),
    toHz: bandEdgeHz(to),
    // What a move brings back was lost without need, whatever company costs.
    severity: Math.max(gainSone, harm * (UNAVOIDABLE + (1 - UNAVOIDABLE) * avoidable)),
    evidence: {
      kind: 'masking',
      target: ids[target],
      masker: ids[masker],
      lostSone,
      lostShare,
      where,
      timeShare,
      freed: answer?.freed.map((t) => ids[t]) ?? [],
    },
    times,
    offered: answer !== null,
    moves: answer ? roomEdits(answer.room, ids) : [],
    predicted: answer && {
      measure: { of: 'heard', track: ids[target] },
      before: inMixSone / aloneSone,
      after: (inMixSone + gainSone) / aloneSone,
    },
  }
}

/** What the tracks of a trouble lose to the masker within its range, per filter: leads count more. */
function lostIn({ worst, others }: Trouble, { sums, tracks }: Context): Float64Array {
  const out = new Float64Array(FILTER_COUNT)
  const { from, to, masker } = worst.place
  for (const { place } of [worst, ...others]) {
    const { lost } = pairMasking(sums, place.target, masker)
    const weight = tracks[place.target].isLead ? LEAD_WEIGHT : 1
    for (let b = from; b < to; b++) out[b] += weight * lost[b]
  }
  return out
}

/** Places of one masker in one range are one trouble, the worst first. */
function troublesOf(candidates: readonly Candidate[]): Trouble[] {
  const troubles: { worst: Candidate; others: Candidate[] }[] = []
  for (const candidate of candidates) {
    const same = troubles.find(({ worst }) => isSameRange(worst.place, candidate.place))
    if (same) same.others.push(candidate)
    else troubles.push({ worst: candidate, others: [] })
  }
  return troubles
}

function isSameRange(a: MaskingPlace, b: MaskingPlace): boolean {
  const shared = Math.min(a.to, b.to) - Math.max(a.from, b.from)
  return a.masker === b.masker && shared >= SAME_RANGE * Math.min(a.to - a.from, b.to - b.from)
}

/** All places, the worst first; of two tracks that cover each other at one the one that is heard less is the target. */
function onceEach(candidates: readonly Candidate[], { trial }: Context): Candidate[] {
  const heard = (t: number) => {
    const { inMixSone, aloneSone } = trial.loudness[t]
    return inMixSone / Math.max(1e-9, aloneSone)
  }
  const isBack = ({ place: a }: Candidate, { place: b }: Candidate) =>
    a.masker === b.target && a.target === b.masker && a.from < b.to && b.from < a.to
  return candidates
    .flatMap((c) => {
      const back = candidates.find((other) => isBack(c, other))
      if (!back) return [c]
      const [own, other] = [heard(c.place.target), heard(back.place.target)]
      const isTold = own < other || (own === other && c.place.target < c.place.masker)
      return isTold ? [{ ...c, severity: c.severity + OTHERS * back.severity }] : []
    })
    .sort((a, b) => b.severity - a.severity)
}

function maskingCandidates({ tracks, sums }: Context): Candidate[] {
  const loudness = tracks.map((_, t) => trackMasking(sums, t).aloneSone)
  const found: Candidate[] = []
  for (let target = 0; target < tracks.length; target++) {
    for (let masker = 0; masker < tracks.length; masker++) {
      if (masker === target || tracks[masker].isLead) continue
      if (tracks[masker].gainDb < -100 || tracks[target].gainDb < -100) continue
      for (const place of maskingPlaces(sums, target, masker)) {
        const company = COMPANY[tracks[target].isLead ? 'lead' : 'other'] * loudness[target]
        const beyond = place.lostSone - company
        if (!tracks[target].isLead && place.maskerPart < LEAST_PART) continue
        const counted = Math.max(beyond, LEAST_COUNTED * place.lostSone)
        const severity = tracks[target].isLead ? counted : ASIDE * counted
        if (severity >= LEAST_SONE) found.push({ place, severity })
      }
    }
  }
  return found
}

/** A pile-up already tells of the same tracks at the same place, or of what a lead suffers there. */
function isSameCrowd(finding: Finding, place: MaskingPlace, { tracks }: Context): boolean {
  const [target, masker] = [tracks[place.target], tracks[place.masker]]
  return (
    finding.kind === 'pile-up' &&
    finding.tracks.includes(masker.id) &&
    (target.isLead || finding.tracks.includes(target.id)) &&
    finding.fromHz < place.hz &&
    place.hz < finding.toHz
  )
}
