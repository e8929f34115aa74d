import { FILTER_HZ } from '../hearing'
import { MIX } from '../treatments'
import { type Balance, type BalanceRegion, regionsOut } from './balance'
import type { Finding } from './finding'
import { roundedBell } from './masking-places'
import { findPileUp, powerBetween } from './pile-up'
import { areOneSource, bandMove, type Context, placeKey, predict } from './survey-input'

/** In a pile-up, what its tracks lose in the crowd counts this part on top of the imbalance. */
const CROWD_WEIGHT = 0.1
/** An excess that several tracks bring, which take from each other there, counts from this part of the tolerance on. */
const CROWDED = 0.8
/** Deviations in balance count this part of the loudness that they add or take. */
const BALANCE_WEIGHT = 0.35

/** Broad regions of the mix that stand out; those that several tracks bring become pile-ups. */
export function balanceFindings(context: Context, balance: Balance): Finding[] {
  const { tracks, sums, trial, masked } = context
  const yielding = tracks.flatMap(({ isLead }, t) => (isLead ? [] : [t]))
  const changeBy = ({ fromHz, toHz, deviationDb }: BalanceRegion) => {
    const within = (f: number) => f >= fromHz && f <= toHz
    const evened = FILTER_HZ.map((f) => (within(f) ? 10 ** (-deviationDb / 10) : 1))
    return BALANCE_WEIGHT * trial.wholeChange(evened)
  }
  const oneSource = (one: number, other: number) => areOneSource(context, one, other)
  const pileUp = (region: BalanceRegion) => {
    const pile = findPileUp(region, masked, sums, yielding, oneSource)
    return pile && pileUpFinding(context, region, pile, changeBy(region))
  }
  const out = balance.regions.map((region) => {
    const pile = pileUp(region)
    if (pile) return pile
    const { hz, fromHz, toHz, deviationDb, toleranceDb, band } = region
    const counted = deviationDb > 0 ? 1 - shareOfLeads(context, region) : 1
    const measure = { of: 'level', track: MIX, fromHz, toHz, against: 'whole' } as const
    const moves = [bandMove(MIX, 'shape', band)]
    return {
      key: `balance ${placeKey(hz)}`,
      kind: 'balance',
      tracks: [],
      hz,
      fromHz,
      toHz,
      severity: counted * changeBy(region),
      evidence: { kind: 'balance', deviationDb, toleranceDb, target: balance.target.kind },
      times: [],
      moves,
      predicted: predict(context, measure, moves),
    } satisfies Finding
  })
  const isNew = (region: BalanceRegion) =>
    balance.regions.every((r) => r.fromHz >= region.toHz || r.toHz <= region.fromHz)
  const crowded = regionsOut(balance, CROWDED).filter(isNew)
  return [...out, ...crowded.flatMap((region) => pileUp(region) ?? [])]
}

/** The leads' part of the power in a region: what is strong because they are there is their own tone, not the mix's. */
function shareOfLeads({ tracks, masked }: Context, { fromHz, toHz }: BalanceRegion): number {
  const powers = masked.map((track) => powerBetween(track, fromHz, toHz))
  const sum = (of: readonly number[]) => of.reduce((a, b) => a + b, 0)
  return sum(powers.filter((_, t) => tracks[t].isLead)) / Math.max(1e-20, sum(powers))
}

function pileUpFinding(
  { trial, tracks }: Context,
  region: BalanceRegion,
  pile: NonNullable<ReturnType<typeof findPileUp>>,
  severity: number,
): Finding {
  const { hz, fromHz, toHz, deviationDb } = region
  const q = Math.max(0.7, Math.min(2, hz / (toHz - fromHz)))
  const cut = roundedBell(hz, -Math.min(4, Math.round(2 * 0.6 * deviationDb) / 2), q)
  const yielding = pile.tracks.slice(0, 3)
  const gained = new Float64Array(tracks.length)
  for (const track of yielding) {
    trial.tryMove(track, [cut]).inMixSone.forEach((v, t) => {
      gained[t] += v
    })
  }
  // The track that gains most by it is the one to listen to.
  const target = gained.indexOf(gained.reduce((a, b) => Math.max(a, b), -1))
  const { aloneSone, inMixSone } = trial.loudness[target]
  return {
    key: `pile-up ${placeKey(hz)}`,
    kind: 'pile-up',
    tracks: pile.tracks.map((t) => tracks[t].id),
    hz,
    fromHz,
    toHz,
    severity: severity + CROWD_WEIGHT * pile.lostSone,
    evidence: {
      kind: 'pile-up',
      excessDb: deviationDb,
      shares: pile.shares,
      lostSone: pile.lostSone,
    },
    times: [],
    moves: yielding.map((track) => bandMove(tracks[track].id, 'fit', cut)),
    predicted: {
      measure: { of: 'heard', track: tracks[target].id },
      before: inMixSone / aloneSone,
      after: (inMixSone + gained[target]) / aloneSone,
    },
  }
}
