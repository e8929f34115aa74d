import { FILTER_COUNT, type MaskingSums, pairMasking, trackMasking } from '../hearing'
import type { Edit } from '../session'
import { addedTreatments } from './effects'
import type { Finding, FindingKind } from './finding'
import { LEAST_OFFERED } from './masking/masking-findings'
import { LEAD_WEIGHT, makeRoom, proposeRoom, type Room, roomEdits } from './masking/room'
import { Trial } from './masking/trial'
import { bellOf, makeMoves, trackMoves } from './masking/trial-moves'
import { selfDrawnGains } from './own/self-drawn'
import type { SurveyInput } from './survey-input'

/** What a plan is made of, in the order in which one goes to work: each group may be left out. */
export const PLAN_GROUPS = [
  'line-up',
  'noise',
  'resonances',
  'sibilants',
  'faders',
  'room',
  'tone',
  'boosts',
] as const
export type PlanGroup = (typeof PLAN_GROUPS)[number]

/** Boosts of leads are for who asks for them: cut before boost. */
export const USUAL_GROUPS: readonly PlanGroup[] = PLAN_GROUPS.filter((g) => g !== 'boosts')

const GROUP_OF: Readonly<Record<FindingKind, PlanGroup>> = {
  alignment: 'line-up',
  'wide-low-end': 'line-up',
  hum: 'noise',
  rumble: 'noise',
  resonance: 'resonances',
  harshness: 'sibilants',
  intelligibility: 'faders',
  masking: 'room',
  'pile-up': 'room',
  balance: 'tone',
}

/** One step of a plan with what it brings on top of the steps before it. */
export interface PlanStep {
  readonly group: PlanGroup
  /** The finding whose moves these are; null for the boost of a lead. */
  readonly findingKey: string | null
  /** The same edits that the finding offers. */
  readonly moves: readonly Edit[]
  /** What it treats: a track, or the mix. */
  readonly nodes: readonly string[]
  /** Sones that tracks win and lose by it all together, but for what the treated ones lose. */
  readonly gainSone: number
  /** Sones that the treated tracks lose in the mix. */
  readonly costSone: number
  /** Share of each track heard after this step, 0 to 1, by id. */
  readonly heard: ReadonlyMap<string, number>
  /** Level change of each treated track by all steps so far, in LU, as far as bands at rest make it. */
  readonly levelsLu: readonly number[]
}

/** A list of moves in the order in which they are made; any beginning of it can be applied. */
export interface Plan {
  readonly groups: readonly PlanGroup[]
  /** Whether room ends because more moves would be too many, and not because little is left. */
  readonly isCutShort: boolean
  /** The leads would be heard as well with all other faders lower by this, in dB; null where faders could not do it, or nothing is won. */
  readonly fadersDb: number | null
  /** Share of each track heard before any step, by id. */
  readonly heardBefore: ReadonlyMap<string, number>
  readonly steps: readonly PlanStep[]
}

/** No track's own level changes by more than this, in LU. */
const PROMISED_LU = 1.5
/** Moves that make room, at most, and boosts of one lead. */
const MOST_ROOM = 8
const MOST_BOOSTS = 2
/** A boost must be worth this much. */
const LEAST_BOOST_WORTH = 1.6

/**
 * The moves of the findings as one plan, in the order of {@link PLAN_GROUPS}: what makes room by what it wins on top of
 * the moves before it. What earlier moves have answered already is left out.
 * @param groups those that are wanted. @param onProgress called with the share done; may throw to give up.
 */
export function planMoves(
  input: SurveyInput,
  findings: readonly Finding[],
  groups: readonly PlanGroup[] = USUAL_GROUPS,
  onProgress: (share: number) => void = () => {},
): Plan {
  const making = new PlanMaking(input)
  const offered = findings.filter((f) => f.offered && f.moves.length > 0)
  let isCutShort = false
  PLAN_GROUPS.forEach((group, index) => {
    onProgress(index / PLAN_GROUPS.length)
    if (!groups.includes(group)) return
    const own = offered.filter((f) => GROUP_OF[f.kind] === group)
    if (group === 'room') isCutShort = making.makeRoomBy(own)
    else if (group === 'boosts') making.raiseLeads()
    else for (const finding of own) making.makeOwn(group, finding)
  })
  const fadersDb = making.leadWon > LEAST_OFFERED.sone ? making.fadersFor() : null
  onProgress(1)
  return { groups, isCutShort, fadersDb, heardBefore: making.heardBefore, steps: making.steps }
}

class PlanMaking {
  readonly steps: PlanStep[] = []
  readonly heardBefore: ReadonlyMap<string, number>
  readonly #input: SurveyInput
  readonly #ids: readonly string[]
  readonly #leads: readonly number[]
  readonly #faders: ReadonlyMap<string, number>
  readonly #trial: Trial
  /** Share of each track heard, as measured over all moments, and as the trial heard it at first. */
  readonly #measured: readonly number[]
  readonly #atFirst: readonly number[]
  readonly #leadAtFirst: number

  constructor(input: SurveyInput) {
    this.#input = input
    this.#ids = input.tracks.map((t) => t.id)
    this.#faders = new Map(input.tracks.map((t) => [t.id, t.faderDb]))
    this.#leads = input.tracks.flatMap((t, i) => (t.isLead ? [i] : []))
    this.#trial = trialOf(input)
    this.#measured = this.#ids.map((_, i) => trackMasking(input.sums, i).audibleShare)
    this.#atFirst = sharesIn(this.#trial)
    this.#leadAtFirst = this.#leadSone
    this.heardBefore = this.#heard
  }

  /** What all leads have won so far, in sone. */
  get leadWon(): number {
    return this.#leadSone - this.#leadAtFirst
  }

  /** Makes what a finding offers on what it is about, whatever others win by it. */
  makeOwn(group: PlanGroup, { key, moves }: Pick<Finding, 'key' | 'moves'>): void {
    this.#step(group, key, moves, () => {
      makeMoves(this.#trial, this.#ids, moves, this.#faders)
      // Bands that hear their own track: their means over time.
      const { tracks, settings } = this.#input
      for (const [t, { id, reading }] of tracks.entries()) {
        const drawn = addedTreatments(moves, id).filter((made) => made.kind === 'follow')
        if (drawn.length === 0) continue
        this.#trial.applyGains(t, selfDrawnGains(drawn, reading, settings.sampleRateHz))
      }
    })
  }

  /** Makes room: of what is offered always what wins most by now. @returns whether moves were left that are worth it. */
  makeRoomBy(offered: readonly Finding[]): boolean {
    const left = [...offered]
    for (let made = 0; left.length > 0; made++) {
      const worths = left.map((finding) => this.#worthOf(finding.moves))
      const best = worths.indexOf(worths.reduce((a, b) => Math.max(a, b)))
      if (worths[best] < LEAST_OFFERED.sone) return false
      if (made === MOST_ROOM) return true
      const [finding] = left.splice(best, 1)
      this.#step('room', finding.key, finding.moves)
    }
    return false
  }

  /** Raises leads where all others take most from them, as far as that is worth it. */
  raiseLeads(): void {
    const { sums } = this.#input
    for (const lead of this.#leads) {
      const made: Room[] = []
      while (made.length < MOST_BOOSTS) {
        const room = proposeRoom(this.#trial, {
          owner: lead,
          kind: 'boost',
          lost: lostToAll(sums, lead),
          leads: this.#leads,
          made: made.map((r) => r.band),
        })
        if (!room || room.worth < LEAST_BOOST_WORTH) break
        made.push(room)
        this.#step('boosts', null, roomEdits(room, this.#ids), () => makeRoom(this.#trial, room))
      }
    }
  }

  /** By how much all other faders would have to go down for the leads to be heard as well, in dB; null beyond 12. */
  fadersFor(): number | null {
    // On fewer moments, from where the leads stand in those.
    const heard = (db: number) => {
      const lowered = this.#ids.map((_, i) => (this.#leads.includes(i) ? 0 : -db))
      return leadSone(trialOf(this.#input, lowered, FADER_FRAMES), this.#leads)
    }
    const wanted = heard(0) * (this.#leadSone / Math.max(1e-9, this.#leadAtFirst))
    let [low, high] = [0, MOST_FADER_DB]
    if (heard(high) < wanted) return null
    for (let i = 0; i < 6; i++) {
      const middle = (low + high) / 2
      if (heard(middle) < wanted) low = middle
      else high = middle
    }
    return Math.round(10 * high) / 10
  }

  /**
   * Share of each track that is heard now. What the trial hears is a part of the moments: its changes are told on what was
   * measured over all of them.
   */
  get #heard(): ReadonlyMap<string, number> {
    const now = sharesIn(this.#trial)
    return new Map(
      this.#ids.map((id, i) => [
        id,
        Math.max(0, Math.min(1, this.#measured[i] + now[i] - this.#atFirst[i])),
      ]),
    )
  }

  get #leadSone(): number {
    return leadSone(this.#trial, this.#leads)
  }

  /** What moves win by now: sones of others, leads counted more. */
  #worthOf(moves: readonly Edit[]): number {
    let worth = 0
    for (const { node, bands, followed, gainDb } of trackMoves(moves, this.#faders)) {
      const owner = this.#ids.indexOf(node)
      if (owner < 0) continue
      // What several moves make of one track stays within what is promised.
      if (-this.#trial.levelSinceStart(owner, bands) - gainDb > PROMISED_LU) return 0
      const effects = [
        ...(bands.length > 0 ? [this.#trial.tryMove(owner, bands, gainDb)] : []),
        ...followed.map(({ key, band }) =>
          this.#trial.tryFollow(owner, this.#ids.indexOf(key), bellOf(band)),
        ),
      ]
      for (const { inMixSone } of effects) {
        inMixSone.forEach((sone, t) => {
          if (t !== owner) worth += (this.#leads.includes(t) ? LEAD_WEIGHT : 1) * sone
        })
      }
    }
    return worth
  }

  #step(
    group: PlanGroup,
    findingKey: string | null,
    moves: readonly Edit[],
    make = () => makeMoves(this.#trial, this.#ids, moves, this.#faders),
  ): void {
    const nodes = [...new Set(moves.flatMap((m) => ('node' in m ? [m.node] : [])))]
    const before = this.#trial.loudness.map((l) => l.inMixSone)
    make()
    const change = this.#trial.loudness.map((l, t) => l.inMixSone - before[t])
    const isTreated = (t: number) => nodes.includes(this.#ids[t])
    const sum = (of: readonly number[]) => of.reduce((a, b) => a + b, 0)
    this.steps.push({
      group,
      findingKey,
      moves,
      nodes,
      gainSone: sum(change.filter((_, t) => !isTreated(t))),
      costSone: Math.max(0, -sum(change.filter((_, t) => isTreated(t)))),
      heard: this.#heard,
      levelsLu: nodes.map((node) => {
        const track = this.#ids.indexOf(node)
        return track < 0 ? 0 : this.#trial.levelSinceStart(track)
      }),
    })
  }
}

function trialOf(
  { tracks, settings }: SurveyInput,
  fadersDb: readonly number[] = [],
  frames = settings.frames,
): Trial {
  const masked = tracks.map(({ reading, gainDb }, i) => ({
    heard: reading.heard,
    gainDb: gainDb + (fadersDb[i] ?? 0),
  }))
  return new Trial(masked, { ...settings, frames })
}

/** What a track loses to all others, per filter. */
function lostToAll(sums: MaskingSums, target: number): Float64Array {
  const lost = new Float64Array(FILTER_COUNT)
  for (let m = 0; m < sums.tracks; m++) {
    if (m === target) continue
    const pair = pairMasking(sums, target, m)
    for (let b = 0; b < FILTER_COUNT; b++) lost[b] += pair.lost[b]
  }
  return lost
}

/** Share of each track that is heard in a trial. */
function sharesIn(trial: Trial): number[] {
  return trial.loudness.map(({ aloneSone, inMixSone }) =>
    aloneSone > 0 ? inMixSone / aloneSone : 1,
  )
}

function leadSone(trial: Trial, leads: readonly number[]): number {
  return leads.reduce((sum, t) => sum + trial.loudness[t].inMixSone, 0)
}

const MOST_FADER_DB = 12
const FADER_FRAMES = 64
