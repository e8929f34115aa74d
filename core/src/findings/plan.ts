import type { EqBand } from '../filters'
import {
  FILTER_COUNT,
  FILTER_HZ,
  type MaskingSums,
  type MaskingTrack,
  pairMasking,
  trackMasking,
} from '../hearing'
import type { Edit } from '../session'
import { newTreatment, type StageName } from '../treatments'
import type { Finding } from './finding'
import { roundedBell } from './masking-places'
import { followBand } from './propose-follow'
import { bandMove, type SurveyInput, treatmentMove } from './survey-input'
import { type Effect, Trial } from './trial'

/** One step of a plan with what it brings on top of the steps before it. */
export interface PlanStep {
  /** The track it treats. */
  readonly node: string
  readonly stage: StageName
  readonly band: EqBand
  /** The track that the band follows: it is there while that one sounds; null where it stays. */
  readonly follows: string | null
  /** Change of the track's output trim that goes with it, so that its own loudness stays nearly what it was. */
  readonly trimDb: number
  /** The finding it comes from, or null for a move the search made itself. */
  readonly findingKey: string | null
  /** Sones that tracks win and lose by it all together, but for what the treated one loses. */
  readonly gainSone: number
  /** What the treated track pays: sones of its loudness in the mix, and of its tone moved elsewhere. */
  readonly costSone: number
  /** The same, with leads counted more: what the search goes by. */
  readonly worth: number
  /** Share of each track heard after this step, 0 to 1, by id. */
  readonly heard: ReadonlyMap<string, number>
  /** Level change of the treated track by all steps so far, in LU. */
  readonly levelLu: number
}

/** Why a plan ends where it does. */
type PlanEnd = 'little-left' | 'bends' | 'enough-moves'

/** A list of moves, best first; any beginning of it can be applied. */
export interface Plan {
  readonly end: PlanEnd
  /** The leads would be heard as well with all other faders lower by this, in dB; null without a step. */
  readonly fadersDb: number | null
  /** Share of each track heard before any step, by id. */
  readonly heardBefore: ReadonlyMap<string, number>
  readonly steps: readonly PlanStep[]
}

export interface PlanLimits {
  readonly mostMoves: number
  /** No track's own level changes by more than this. */
  readonly mostLu: number
}

/** 1.5 LU is what is promised; gated loudness may differ a little from the power the search goes by. */
export const PLAN_LIMITS: PlanLimits = { mostMoves: 8, mostLu: 1.4 }

/** Sones of leads count this many times. */
const LEAD_WEIGHT = 10
/** Widths and depths that the search tries for each track that covers a lead. */
const QS = [0.7, 1, 1.4] as const
const SECOND_Q = 1
const DEPTHS_DB = [-1.5, -2.5, -4, -6] as const
/** Moves on one track stand at least so far apart. */
const APART_OCTAVES = 0.5
/** No cut is deeper than this, in dB. */
const DEEPEST_DB = 6
/** Beyond this depth a cut is no wider than two octaves: Q 0.67. */
const WIDE_CUT_DB = 3
const NARROWEST_WIDE_Q = 0.67
/** A track is asked to yield so often. */
const MOST_PER_TRACK = 2
/** A sone of a track's tone that moves elsewhere counts as much as this many sones won: broad deep cuts are dear. */
const TONE_WEIGHT = 2
/** A step must be worth this much; where the next is worth less than this part of the first, the curve has bent. */
const LEAST_WORTH = 0.2
const LEAST_PART = 0.05
/** A move must win this for others than the track that pays, in sone. */
const LEAST_SONE = 0.1
/** Tracks that take less than this share of a lead's loss are not asked to yield. */
const LEAST_SHARE = 0.04
const SEARCH_FRAMES = 64
/** A cut that follows takes the place of one that stays where it wins this part of it for this part of the cost. */
const AS_WELL = 0.85
const CLEARLY_LESS = 0.7

/** Boosts of a lead itself, where all of them together take most from it; a cut is worth eight times a boost. */
const BOOSTS_DB = [1, 1.5, 2, 2.5, 3] as const
const BOOST_WEIGHT = 0.12

interface CandidateMove {
  readonly owner: number
  readonly stage: StageName
  readonly band: EqBand
}

/** A candidate and what it was worth when it was last tried out; later it can hardly be worth more. */
interface Candidate {
  readonly move: CandidateMove
  readonly findingKey: string | null
  worth: number
  triedAt: number
}

/**
 * Searches the shortest list of moves that wins most clarity: greedily, the move that is worth most on top
 * of those before it, each tried out with the masking model. No lead is cut; a boost of a lead must be worth
 * eight times a cut.
 * @param onProgress called with the share done; may throw to give up.
 */
export function planMoves(
  input: SurveyInput,
  findings: readonly Finding[],
  limits: PlanLimits = PLAN_LIMITS,
  onProgress: (share: number) => void = () => {},
): Plan {
  const masked = input.tracks.map(({ reading, gainDb }) => ({ heard: reading.heard, gainDb }))
  const trial = new Trial(masked, { ...input.settings, frames: SEARCH_FRAMES })
  const weights = input.tracks.map((t) => (t.isLead ? LEAD_WEIGHT : 1))
  const leads = input.tracks.flatMap((t, i) => (t.isLead ? [i] : []))
  const candidates = [...fromFindings(input, findings), ...fromSearch(input)]
  const made = new Map<number, EqBand[]>()
  const ids = input.tracks.map((t) => t.id)
  // What the search hears is a part of the moments: its changes are told on what was measured over all of them.
  const measured = ids.map((_, i) => trackMasking(input.sums, i).audibleShare)
  const atFirst = shares(trial)
  const heard = () => {
    const now = shares(trial)
    return new Map(
      ids.map((id, i) => [id, Math.max(0, Math.min(1, measured[i] + now[i] - atFirst[i]))]),
    )
  }
  const heardBefore = heard()
  const steps: PlanStep[] = []
  let end: PlanEnd = 'enough-moves'
  for (let round = 0; round < limits.mostMoves; round++) {
    const best = bestCandidate(trial, candidates, made, weights, limits, round, (share) =>
      onProgress((round + share) / limits.mostMoves),
    )
    if (!best || best.worth < LEAST_WORTH) {
      end = 'little-left'
      break
    }
    if (round > 0 && best.worth < LEAST_PART * steps[0].worth) {
      end = 'bends'
      break
    }
    const { owner, band } = best.move
    const stays = trimFor(trial, best.move, limits)
    const still = trial.tryMove(owner, [band], stays)
    const moving = followInstead(trial, best.move, still, leads)
    const trimDb = moving ? 0 : stays
    const effect = moving?.effect ?? still
    const won = effect.inMixSone.reduce((a, b) => a + b, 0)
    const gainSone = won - Math.min(0, effect.inMixSone[owner])
    const costSone = costOf(effect, owner)
    candidates.splice(candidates.indexOf(best), 1)
    // What hardly wins anything is no move, whatever the lead's part of it.
    if (gainSone < LEAST_SONE) {
      round--
      continue
    }
    if (moving) trial.applyFollow(owner, moving.key, band)
    else trial.apply(owner, [band], trimDb)
    const bands = [...(made.get(owner) ?? []), band]
    made.set(owner, bands)
    steps.push({
      node: ids[owner],
      stage: best.move.stage,
      band,
      follows: moving ? ids[moving.key] : null,
      trimDb,
      findingKey: best.findingKey,
      gainSone,
      costSone,
      worth: best.worth,
      heard: heard(),
      levelLu: trial.levelSinceStart(owner),
    })
  }
  onProgress(1)
  const wanted = leadSone(trial, leads)
  const fadersDb = steps.length > 0 ? fadersFor(masked, input, leads, wanted) : null
  return { heardBefore, steps, end, fadersDb }
}

/** Share of each track that is heard in a trial. */
function shares(trial: Trial): number[] {
  return trial.loudness.map(({ aloneSone, inMixSone }) =>
    aloneSone > 0 ? inMixSone / aloneSone : 1,
  )
}

/**
 * The same cut that is there only while the lead that wins most by it sounds, where that does as well and costs the track
 * clearly less; a cut that stays is the first choice.
 */
function followInstead(
  trial: Trial,
  { owner, band }: CandidateMove,
  still: Effect,
  leads: readonly number[],
): { readonly key: number; readonly effect: Effect } | null {
  if (band.db >= 0 || leads.length === 0) return null
  const won = ({ inMixSone }: Effect) => leads.reduce((sum, t) => sum + inMixSone[t], 0)
  const key = leads.reduce((a, b) => (still.inMixSone[b] > still.inMixSone[a] ? b : a))
  if (still.inMixSone[key] <= 0) return null
  const effect = trial.tryFollow(owner, key, band)
  const isAsGood = won(effect) >= AS_WELL * won(still)
  return isAsGood && costOf(effect, owner) <= CLEARLY_LESS * costOf(still, owner)
    ? { key, effect }
    : null
}

/** A step as edits: its band, and the trim that goes with it. */
export function planEdits({ node, stage, band, follows, trimDb }: PlanStep): Edit[] {
  if (follows !== null) {
    const { params } = newTreatment('follow', 'proposed', 'fit')
    const bands = [followBand('proposed', { hz: band.hz, q: band.q, rangeDb: band.db })]
    const follow = newTreatment('follow', 'proposed', 'fit', { ...params, bands })
    const key = { node: follows, tap: 'after-fader', as: 'mono' } as const
    return [treatmentMove(node, { ...follow, key })]
  }
  const move = bandMove(node, stage, band)
  return trimDb === 0 ? [move] : [move, { kind: 'trim', node, db: trimDb }]
}

/** The candidate that is worth most now. Those that were worth less before are only tried when they may win. */
function bestCandidate(
  trial: Trial,
  candidates: Candidate[],
  made: ReadonlyMap<number, readonly EqBand[]>,
  weights: readonly number[],
  limits: PlanLimits,
  round: number,
  onProgress: (share: number) => void,
): Candidate | null {
  candidates.sort((a, b) => b.worth - a.worth)
  let best: Candidate | null = null
  for (const [index, candidate] of candidates.entries()) {
    if (best && candidate.worth <= best.worth && candidate.triedAt >= 0) break
    if (candidate.triedAt < round) {
      onProgress(index / candidates.length)
      candidate.worth = worthOf(trial, candidate, made, weights, limits)
      candidate.triedAt = round
    }
    if (candidate.worth > (best?.worth ?? 0)) best = candidate
  }
  return best
}

function worthOf(
  trial: Trial,
  { move }: Candidate,
  made: ReadonlyMap<number, readonly EqBand[]>,
  weights: readonly number[],
  limits: PlanLimits,
): number {
  const before = made.get(move.owner) ?? []
  if (before.length >= MOST_PER_TRACK || tooMuch(before, move.band)) return 0
  const effect = trial.tryMove(move.owner, [move.band], trimFor(trial, move, limits))
  const won = effect.inMixSone.reduce((sum, v, t) => sum + weights[t] * v, 0)
  const worth = won - TONE_WEIGHT * effect.toneSone
  if (move.band.db <= 0) return worth
  const level = trial.levelSinceStart(move.owner, [move.band])
  return level > limits.mostLu ? 0 : BOOST_WEIGHT * worth
}

/** What brings the treated track back to within the limit of its own loudness. */
function trimFor(trial: Trial, { owner, band }: CandidateMove, { mostLu }: PlanLimits): number {
  const short = -trial.levelSinceStart(owner, [band]) - mostLu
  return short > 0 ? Math.ceil(10 * short) / 10 : 0
}

/** What the treated track pays. */
function costOf({ inMixSone, toneSone }: Effect, owner: number): number {
  return Math.max(0, -inMixSone[owner]) + toneSone
}

function leadSone(trial: Trial, leads: readonly number[]): number {
  return leads.reduce((sum, t) => sum + trial.loudness[t].inMixSone, 0)
}

const MOST_FADER_DB = 12

/** By how much all other faders would have to go down for the leads to be heard as well, in dB. */
function fadersFor(
  masked: readonly MaskingTrack[],
  input: SurveyInput,
  leads: readonly number[],
  wanted: number,
): number | null {
  if (leads.length === 0) return null
  const heard = (db: number) => {
    const lowered = masked.map((t, i) => (leads.includes(i) ? t : { ...t, gainDb: t.gainDb - db }))
    return leadSone(new Trial(lowered, { ...input.settings, frames: SEARCH_FRAMES }), leads)
  }
  let [low, high] = [0, MOST_FADER_DB]
  if (heard(high) < wanted) return null
  for (let i = 0; i < 6; i++) {
    const middle = (low + high) / 2
    if (heard(middle) < wanted) low = middle
    else high = middle
  }
  return Math.round(10 * high) / 10
}

/** A deep cut is not a wide one; no track is moved twice within half an octave. */
function tooMuch(before: readonly EqBand[], band: EqBand): boolean {
  if (band.db < -WIDE_CUT_DB && band.q < NARROWEST_WIDE_Q) return true
  const isThere = before.some((b) => Math.abs(Math.log2(b.hz / band.hz)) < APART_OCTAVES)
  return isThere || -band.db > DEEPEST_DB
}

function fromFindings(input: SurveyInput, findings: readonly Finding[]): Candidate[] {
  return findings.flatMap((finding) =>
    finding.moves.flatMap((move) => {
      if (move.kind !== 'add-band' || move.mark.band.type !== 'bell') return []
      const owner = input.tracks.findIndex((t) => t.id === move.node)
      if (owner < 0 || input.tracks[owner].isLead) return []
      const candidate = { owner, stage: move.stage, band: move.mark.band }
      return [{ ...fresh(candidate), findingKey: finding.key }]
    }),
  )
}

/** Wide cuts on tracks that cover leads, where they cover most, and wide boosts of leads where all do. */
function fromSearch({ tracks, sums }: SurveyInput): Candidate[] {
  const leads = tracks.flatMap((t, i) => (t.isLead ? [i] : []))
  return tracks.flatMap((track, owner) => {
    const lost = track.isLead ? trackMasking(sums, owner).lost : lostTo(sums, leads, owner)
    if (!lost) return []
    const places = QS.map((q) => [bestPlace(lost, q), q] as const)
    // Besides, where most is lost away from the first of them.
    const [[first]] = places
    const others = lost.map((v, b) =>
      Math.abs(Math.log2(FILTER_HZ[b] / first)) < 2 * APART_OCTAVES ? 0 : v,
    )
    return [...places, [bestPlace(others, SECOND_Q), SECOND_Q] as const].flatMap(([hz, q]) =>
      (track.isLead ? BOOSTS_DB : DEPTHS_DB).map((db) =>
        fresh({ owner, stage: 'fit', band: roundedBell(hz, db, q) }),
      ),
    )
  })
}

function fresh(move: CandidateMove): Candidate {
  return { move, findingKey: null, worth: Number.POSITIVE_INFINITY, triedAt: -1 }
}

/** What leads lose to a masker, per filter; null when it is too little to ask. */
function lostTo(sums: MaskingSums, leads: readonly number[], masker: number): Float64Array | null {
  const lost = new Float64Array(FILTER_COUNT)
  let toAll = 0
  let toThis = 0
  for (const lead of leads) {
    for (let m = 0; m < sums.tracks; m++) {
      if (m === lead) continue
      const pair = pairMasking(sums, lead, m)
      toAll += pair.lostSone
      if (m !== masker) continue
      toThis += pair.lostSone
      for (let b = 0; b < FILTER_COUNT; b++) lost[b] += pair.lost[b]
    }
  }
  return toThis >= LEAST_SHARE * toAll ? lost : null
}

/** Where a bell of a width takes in most of a loss: Gaussian weight over octaves. */
function bestPlace(lost: Float64Array, q: number): number {
  const octaves = 0.6 / q
  let best = 0
  let most = -1
  for (let c = 0; c < FILTER_COUNT; c++) {
    let sum = 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      const away = Math.log2(FILTER_HZ[b] / FILTER_HZ[c]) / octaves
      if (Math.abs(away) < 3) sum += lost[b] * Math.exp(-0.5 * away * away)
    }
    if (sum > most) {
      most = sum
      best = c
    }
  }
  return FILTER_HZ[best]
}
