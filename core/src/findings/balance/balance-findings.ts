import { FILTER_HZ } from '../../hearing'
import { MIX } from '../../treatments'
import type { Finding } from '../finding'
import { LEAST_OFFERED } from '../masking/masking-findings'
import { roundedBell } from '../masking/masking-places'
import { findPileUp, powerBetween } from '../masking/pile-up'
import { areOneSource, bandMove, type Context, placeKey, predict } from '../survey-input'
import { type Balance, type BalanceRegion, regionsOut } from './balance'

/** In a pile-up, what its tracks lose in the crowd counts this part on top of the imbalance. */
const CROWD_WEIGHT = 0.1
/** An excess that several tracks bring, which take from each other there, counts from this part of the tolerance on. */
const CROWDED = 0.8
/** Deviations in balance count this part of the loudness that they add or take. */
const BALANCE_WEIGHT = 0.35
/** An excess of which one track brings this part of the power is answered on that track. */
const MOSTLY = 0.5
/** One of which leads bring this part is their own tone. */
const LEADS_OWN = 0.7
/** Without references a slope is held against the mix: a weak witness, which is never told as more than this, in sone. */
const MOST_BY_SLOPE = 0.3
/** A deviation of less harm than this is measured, and left as it is: songs differ by as much. */
const LEAST_OFFERED_SONE = 0.3
/** ... and what is not so many times as far out as is normal. */
const FAR_OUT = 1.6
/** Of so few sounds a slope says nothing. */
const LEAST_TRACKS = 5

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
  const isSlope = balance.target.kind === 'slope'
  const out = balance.regions.flatMap((region) => {
    const pile = pileUp(region)
    if (pile) return [pile]
    const { hz, fromHz, toHz, deviationDb, toleranceDb, band } = region
    const { mostly, ofLeads } = whoBrings(context, region)
    // Of few sounds, or of one that makes the range, a slope says nothing.
    if (isSlope && (tracks.length < LEAST_TRACKS || mostly)) return []
    const isExcess = deviationDb > 0
    const counted = isExcess ? 1 - ofLeads : 1
    const own = isExcess && mostly && !mostly.isLead ? mostly : null
    const isTheirs = isExcess && ofLeads > LEADS_OWN
    const severity = counted * changeBy(region)
    const isFarOut = Math.abs(deviationDb) >= FAR_OUT * toleranceDb
    const isOffered = !isTheirs && isFarOut && severity >= LEAST_OFFERED_SONE
    const answer = own ? bandMove(own.track, 'fit', band) : bandMove(MIX, 'shape', band)
    const moves = isOffered ? [answer] : []
    const measure = { of: 'level', track: MIX, fromHz, toHz, against: 'whole' } as const
    return {
      key: `balance ${placeKey(hz)}`,
      kind: 'balance',
      tracks: [],
      hz,
      fromHz,
      toHz,
      severity: isSlope ? Math.min(MOST_BY_SLOPE, severity) : severity,
      evidence: {
        kind: 'balance',
        deviationDb,
        toleranceDb,
        target: balance.target.kind,
        mostly: own && { track: own.track, share: own.share },
      },
      times: [],
      offered: isOffered,
      moves,
      predicted: isOffered ? predict(context, measure, moves) : null,
    } satisfies Finding
  })
  const isNew = (region: BalanceRegion) =>
    balance.regions.every((r) => r.fromHz >= region.toHz || r.toHz <= region.fromHz)
  const crowded = regionsOut(balance, CROWDED).filter(isNew)
  return [...out, ...crowded.flatMap((region) => pileUp(region) ?? [])]
}

/** Who brings the power in a region: the one track that brings most of it, and the leads' part. */
function whoBrings({ tracks, masked }: Context, { fromHz, toHz }: BalanceRegion) {
  const powers = masked.map((track) => powerBetween(track, fromHz, toHz))
  const sum = (of: readonly number[]) => of.reduce((a, b) => a + b, 0)
  const all = Math.max(1e-20, sum(powers))
  const strongest = powers.indexOf(powers.reduce((a, b) => Math.max(a, b), 0))
  const share = powers[strongest] / all
  return {
    mostly:
      share > MOSTLY
        ? { track: tracks[strongest].id, isLead: tracks[strongest].isLead, share }
        : null,
    ofLeads: sum(powers.filter((_, t) => tracks[t].isLead)) / all,
  }
}

function pileUpFinding(
  context: Context,
  region: BalanceRegion,
  pile: NonNullable<ReturnType<typeof findPileUp>>,
  severity: number,
): Finding {
  const { trial, tracks } = context
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
  const isHeard =
    gained[target] >= LEAST_OFFERED.sone && gained[target] >= LEAST_OFFERED.share * aloneSone
  const moves = yielding.map((track) => bandMove(tracks[track].id, 'fit', cut))
  const level = { of: 'level', track: MIX, fromHz, toHz, against: 'whole' } as const
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
    offered: true,
    moves,
    // Where no track wins enough by it to be told, it is for the balance.
    predicted: isHeard
      ? {
          measure: { of: 'heard', track: tracks[target].id },
          before: inMixSone / aloneSone,
          after: (inMixSone + gained[target]) / aloneSone,
        }
      : predict(context, level, moves),
  }
}
