import type { EqBand } from '../filters'
import { trackMasking } from '../hearing'
import type { Edit } from '../session'
import { newTreatment, type StageName } from '../treatments'
import type { Finding } from './finding'
import { type CandidateMove, candidateMoves, isTooMuch, type PlannedMove } from './plan-candidates'
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
  /** Change of the track's output that goes with it, so that its own loudness stays nearly what it was. */
  readonly outputDb: number
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
/** A track is asked to yield so often. */
const MOST_PER_TRACK = 2
/** A sone of a track's tone that moves elsewhere counts as much as this many sones won: broad deep cuts are dear. */
const TONE_WEIGHT = 2
/** A step must be worth this much; where the next is worth less than this part of the first, the curve has bent. */
const LEAST_WORTH = 0.2
const LEAST_PART = 0.05
/** A move must win this for others than the track that pays, in sone. */
const LEAST_SONE = 0.1
/** At one place and width no depth is worth more than so many times the one that is tried first. */
const MOST_TIMES_LIKE = 2
const SEARCH_FRAMES = 64
/** A cut that follows takes the place of one that stays where it wins this part of it for this part of the cost. */
const AS_WELL = 0.85
const CLEARLY_LESS = 0.7

/** A cut is worth eight times a boost of a lead itself. */
const BOOST_WEIGHT = 0.12

/** A candidate and what it was worth when it was last tried out; later it can hardly be worth more. */
interface Candidate {
  readonly planned: PlannedMove
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
  const search = new PlanSearch(input, candidateMoves(input, findings), limits)
  const heardBefore = search.heard
  const end = search.run(onProgress)
  const fadersDb = search.steps.length > 0 ? fadersFor(input, search.leads, search.leadSone) : null
  return { heardBefore, steps: search.steps, end, fadersDb }
}

class PlanSearch {
  readonly steps: PlanStep[] = []
  readonly leads: readonly number[]
  readonly #ids: readonly string[]
  readonly #trial: Trial
  readonly #limits: PlanLimits
  readonly #moves: readonly PlannedMove[]
  readonly #weights: readonly number[]
  readonly #made = new Map<number, EqBand[]>()
  /** Share of each track heard, as measured over all moments, and as the trial heard it at first. */
  readonly #measured: readonly number[]
  readonly #atFirst: readonly number[]

  constructor(input: SurveyInput, moves: readonly PlannedMove[], limits: PlanLimits) {
    this.leads = input.tracks.flatMap((t, i) => (t.isLead ? [i] : []))
    this.#ids = input.tracks.map((t) => t.id)
    this.#trial = trialOf(input)
    this.#limits = limits
    this.#moves = moves
    this.#weights = input.tracks.map((t) => (t.isLead ? LEAD_WEIGHT : 1))
    this.#measured = this.#ids.map((_, i) => trackMasking(input.sums, i).audibleShare)
    this.#atFirst = shares(this.#trial)
  }

  /** Share of each track that is heard now. What the search hears is a part of the moments: its changes are told on what was measured over all of them. */
  get heard(): ReadonlyMap<string, number> {
    const now = shares(this.#trial)
    return new Map(
      this.#ids.map((id, i) => [
        id,
        Math.max(0, Math.min(1, this.#measured[i] + now[i] - this.#atFirst[i])),
      ]),
    )
  }

  /** What is heard of all leads, in sone. */
  get leadSone(): number {
    return leadSone(this.#trial, this.leads)
  }

  /** Adds steps as long as they are worth it. @returns why it ends. */
  run(onProgress: (share: number) => void): PlanEnd {
    const worthNow = (move: CandidateMove) => this.#worthOf(move)
    const { mostMoves } = this.#limits
    const done = (rounds: number) => onProgress(Math.min(1, rounds / (mostMoves + 1)))
    const candidates = firstTried(this.#moves, worthNow, done)
    for (let round = 0; this.steps.length < mostMoves; round++) {
      const best = bestCandidate(candidates, worthNow, round, (share) => done(1 + round + share))
      if (!best || best.worth < LEAST_WORTH) return 'little-left'
      const [first] = this.steps
      if (first && best.worth < LEAST_PART * first.worth) return 'bends'
      candidates.splice(candidates.indexOf(best), 1)
      this.#make(best)
    }
    return 'enough-moves'
  }

  /** Makes a move, where it wins more than hardly anything, whatever the lead's part of it. */
  #make({ planned: { move, findingKey }, worth }: Candidate): void {
    const { owner, band, stage } = move
    const trial = this.#trial
    const stays = trimFor(trial, move, this.#limits)
    const still = trial.tryMove(owner, [band], stays)
    const moving = followInstead(trial, move, still, this.leads)
    const outputDb = moving ? 0 : stays
    const effect = moving?.effect ?? still
    const won = effect.inMixSone.reduce((a, b) => a + b, 0)
    const gainSone = won - Math.min(0, effect.inMixSone[owner])
    if (gainSone < LEAST_SONE) return
    if (moving) trial.applyFollow(owner, moving.key, band)
    else trial.apply(owner, [band], outputDb)
    this.#made.set(owner, [...(this.#made.get(owner) ?? []), band])
    this.steps.push({
      node: this.#ids[owner],
      stage,
      band,
      follows: moving ? this.#ids[moving.key] : null,
      outputDb,
      findingKey,
      gainSone,
      costSone: costOf(effect, owner),
      worth,
      heard: this.heard,
      levelLu: trial.levelSinceStart(owner),
    })
  }

  #worthOf(move: CandidateMove): number {
    const { owner, band } = move
    const trial = this.#trial
    const before = this.#made.get(owner) ?? []
    if (before.length >= MOST_PER_TRACK) return 0
    if (isTooMuch(before, band, trial.sampleRateHz)) return 0
    const effect = trial.tryMove(owner, [band], trimFor(trial, move, this.#limits))
    const won = effect.inMixSone.reduce((sum, v, t) => sum + this.#weights[t] * v, 0)
    const worth = won - TONE_WEIGHT * effect.toneSone
    if (band.db <= 0) return worth
    const level = trial.levelSinceStart(owner, [band])
    return level > this.#limits.mostLu ? 0 : BOOST_WEIGHT * worth
  }
}

function trialOf({ tracks, settings }: SurveyInput, fadersDb: readonly number[] = []): Trial {
  const masked = tracks.map(({ reading, gainDb }, i) => ({
    heard: reading.heard,
    gainDb: gainDb + (fadersDb[i] ?? 0),
  }))
  return new Trial(masked, { ...settings, frames: SEARCH_FRAMES })
}

/** Candidates with what they are worth, or at most are: of those at one place and width one is tried. */
function firstTried(
  moves: readonly PlannedMove[],
  worthNow: (move: CandidateMove) => number,
  onProgress: (share: number) => void,
): Candidate[] {
  const worths = new Map<PlannedMove, number>()
  for (const [index, planned] of moves.entries()) {
    if (planned.like) continue
    onProgress(index / moves.length)
    worths.set(planned, worthNow(planned.move))
  }
  const worthOf = (planned: PlannedMove) => worths.get(planned) ?? 0
  return moves.map((planned) =>
    planned.like
      ? { planned, worth: MOST_TIMES_LIKE * worthOf(planned.like), triedAt: -1 }
      : { planned, worth: worthOf(planned), triedAt: 0 },
  )
}

/** The candidate that is worth most now. Those that were worth less before are only tried when they may win. */
function bestCandidate(
  candidates: Candidate[],
  worthNow: (move: CandidateMove) => number,
  round: number,
  onProgress: (share: number) => void,
): Candidate | null {
  candidates.sort((a, b) => b.worth - a.worth)
  let best: Candidate | null = null
  for (const [index, candidate] of candidates.entries()) {
    if (candidate.worth <= (best?.worth ?? 0)) break
    if (candidate.triedAt < round) {
      onProgress(index / candidates.length)
      candidate.worth = worthNow(candidate.planned.move)
      candidate.triedAt = round
    }
    if (candidate.worth > (best?.worth ?? 0)) best = candidate
  }
  return best
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

/** A step as edits: its band, and the change of output that goes with it. */
export function planEdits({ node, stage, band, follows, outputDb }: PlanStep): Edit[] {
  if (follows !== null) {
    const { params } = newTreatment('follow', 'proposed', 'fit')
    const bands = [followBand('proposed', { hz: band.hz, q: band.q, rangeDb: band.db })]
    const follow = newTreatment('follow', 'proposed', 'fit', { ...params, bands })
    const key = { node: follows, tap: 'after-fader', as: 'mono' } as const
    return [treatmentMove(node, { ...follow, key })]
  }
  const move = bandMove(node, stage, band)
  return outputDb === 0 ? [move] : [move, { kind: 'change-output-gain', node, db: outputDb }]
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
function fadersFor(input: SurveyInput, leads: readonly number[], wanted: number): number | null {
  if (leads.length === 0) return null
  const heard = (db: number) => {
    const lowered = input.tracks.map((_, i) => (leads.includes(i) ? 0 : -db))
    return leadSone(trialOf(input, lowered), leads)
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
