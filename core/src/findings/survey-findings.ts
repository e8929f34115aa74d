import {
  bandEdgeHz,
  FILTER_HZ,
  type MaskingSums,
  type MaskingTrack,
  trackMasking,
} from '../hearing'
import type { EqBand } from '../session'
import { alignPair, outlineSpectra } from './alignment'
import type { BalanceTarget } from './balance'
import { type Balance, readBalance } from './balance'
import { decayRatio } from './decay'
import type { Finding, Owner, Prediction, ProposedMove } from './finding'
import { findHarshness } from './harshness'
import { type MaskingPlace, maskingPlaces, proposeCut, roundedBell } from './masking-places'
import { type ReadableMeasure, readMeasure } from './measure'
import { findPileUp } from './pile-up'
import { findRumble } from './rumble'
import type { SourceReading } from './source-reading'
import { Trial, type TrialSettings } from './trial'
import { findWideLowEnd } from './wide-low-end'

/** One track as findings see it. */
export interface SurveyTrack {
  readonly reading: SourceReading
  /** Gain at which it stands in the mix, in dB. */
  readonly gainDb: number
  /** Whether others make room for it. */
  readonly isLead: boolean
}

/** Everything that was measured of a session. */
export interface SurveyInput {
  readonly tracks: readonly SurveyTrack[]
  /** Masking of the same tracks over the whole passage. */
  readonly sums: MaskingSums
  /** Long-term levels of the mix, sixth octaves, in dB; null leaves balance out. */
  readonly mixLevels: Float64Array | null
  readonly target: BalanceTarget
  readonly settings: TrialSettings
}

/** Loudness that any company costs: this share of a lead's own, or of another track's, is no fault. */
const COMPANY = { lead: 0.03, other: 0.02 } as const
/** What is lost to a track that is no lead counts for less where no lead is concerned. */
const ASIDE = 0.5
/** A masker is named for a track that is no lead when at least this part of the loss is its doing. */
const LEAST_PART = 0.3
/** Findings of less harm than this are not told. */
const LEAST_SONE = 0.01
/** A masking move must bring back this much of the target's loudness. */
const LEAST_GAIN = 0.0015
/** Candidates that are tried out with the model, at most. */
const MOST_TRIED = 24
/** Equivalents: what is not the source counts this many sones for each dB it stands over the floor. */
const RUMBLE_SONE_PER_DB = 0.025
const RUMBLE_FLOOR_DB = -42
/** A ring is sharper than its loudness: sones it adds count this many times. */
const RING_WEIGHT = 2
const RING_CUT_SHARE = 0.75
const MOST_RING_CUT_DB = 12
const LEAST_COHERENCE = 0.5
const LEAST_CANCELLED_DB = 1.5
/** In a pile-up, what its tracks lose in the crowd counts this part on top of the imbalance. */
const CROWD_WEIGHT = 0.1
/** Deviations in balance count this part of the loudness that they add or take. */
const BALANCE_WEIGHT = 0.35

/** All findings of a session, worst first. @param onProgress called with the share done. */
export function surveyFindings(
  input: SurveyInput,
  onProgress: (share: number) => void = () => {},
): Finding[] {
  const masked = input.tracks.map(({ reading, gainDb }) => ({ bands: reading.bands, gainDb }))
  const trial = new Trial(masked, input.settings)
  onProgress(0.1)
  const context: Context = { ...input, masked, trial }
  const balance = input.mixLevels && readBalance(input.mixLevels, input.target)
  const own = ownFindings(context)
  onProgress(0.3)
  const pairs = alignmentFindings(context)
  onProgress(0.4)
  const whole = balance ? balanceFindings(context, balance) : []
  const masking = maskingFindings(context, whole, (share) => onProgress(0.4 + 0.6 * share))
  return [...own, ...pairs, ...whole, ...masking]
    .filter((f) => f.severity >= LEAST_SONE)
    .sort((a, b) => b.severity - a.severity)
}

interface Context extends SurveyInput {
  readonly masked: readonly MaskingTrack[]
  readonly trial: Trial
}

/** Eighths of an octave tell places apart in keys, so that small changes of measure do not. */
function placeKey(hz: number): number {
  return Math.round(8 * Math.log2(hz))
}

function bandMove(owner: Owner, stage: 'clean' | 'fit' | 'shape', band: EqBand): ProposedMove {
  return { kind: 'band', owner, stage, band }
}

/** What filters on one sound do to a measure of it. */
function predict(
  { tracks, mixLevels, trial }: Context,
  measure: ReadableMeasure,
  owner: Owner,
  bands: readonly EqBand[],
): Prediction {
  const { sampleRateHz } = trial
  return {
    measure,
    before: readMeasure(measure, { tracks, mixLevels }),
    after: readMeasure(measure, { tracks, mixLevels }, { owner, bands, sampleRateHz }),
  }
}

/** What each track has by itself: rings, rumble, harsh moments, a wide low end. */
function ownFindings(context: Context): Finding[] {
  return context.tracks.flatMap(({ reading }, track) => [
    ...ringFindings(context, track),
    ...rumbleFinding(context, track, reading),
    ...harshFinding(context, track, reading),
    ...wideFinding(context, track, reading),
  ])
}

function ringFindings(context: Context, track: number): Finding[] {
  const { tracks, trial } = context
  return tracks[track].reading.rings.slice(0, 3).map((ring) => {
    const cutDb = -Math.min(MOST_RING_CUT_DB, Math.round(2 * RING_CUT_SHARE * ring.db) / 2)
    const cut = roundedBell(ring.hz, cutDb, Math.max(6, Math.min(24, ring.q)))
    const { inMixSone } = trial.tryMove(track, [cut])
    const [fromHz, toHz] = [ring.hz * 2 ** (-1 / 24), ring.hz * 2 ** (1 / 24)]
    const measure = { of: 'level', track, fromHz, toHz, against: 'beside' } as const
    return {
      key: `resonance ${track} ${placeKey(ring.hz)}`,
      kind: 'resonance',
      tracks: [track],
      hz: ring.hz,
      fromHz,
      toHz,
      severity: RING_WEIGHT * Math.max(0, -inMixSone[track]),
      evidence: {
        kind: 'resonance',
        heightDb: ring.db,
        q: ring.q,
        score: ring.score,
        visits: ring.visits,
        decayRatio: decayRatio(tracks[track].reading.bands, ring.hz),
      },
      times: [],
      moves: [bandMove(track, 'clean', cut)],
      predicted: predict(context, measure, track, [cut]),
    }
  })
}

function rumbleFinding(context: Context, track: number, reading: SourceReading): Finding[] {
  const rumble = findRumble(reading)
  if (!rumble) return []
  const { levelDb, toHz, lowestHz, cut } = rumble
  const measure = { of: 'level', track, fromHz: 20, toHz, against: 'whole' } as const
  return [
    {
      key: `rumble ${track}`,
      kind: 'rumble',
      tracks: [track],
      hz: Math.sqrt(20 * toHz),
      fromHz: 20,
      toHz,
      severity: RUMBLE_SONE_PER_DB * (levelDb - RUMBLE_FLOOR_DB),
      evidence: { kind: 'rumble', lowestHz, levelDb },
      times: [],
      moves: [bandMove(track, 'clean', cut)],
      predicted: predict(context, measure, track, [cut]),
    },
  ]
}

function harshFinding(context: Context, track: number, reading: SourceReading): Finding[] {
  const harsh = findHarshness(reading)
  if (!harsh) return []
  const { hz, fromHz, toHz, excessDb, timeShare, cut } = harsh
  const measure = { of: 'level', track, fromHz, toHz, against: 'whole' } as const
  return [
    {
      key: `harshness ${track}`,
      kind: 'harshness',
      tracks: [track],
      hz,
      fromHz,
      toHz,
      severity: Math.max(0, -context.trial.tryMove(track, [cut]).aloneSone),
      evidence: { kind: 'harshness', excessDb, timeShare },
      times: [],
      moves: [bandMove(track, 'clean', cut)],
      predicted: predict(context, measure, track, [cut]),
    },
  ]
}

function wideFinding(context: Context, track: number, reading: SourceReading): Finding[] {
  const wide = findWideLowEnd(reading.bands)
  if (!wide) return []
  const { fromHz, belowHz, sideShare, lowestCorrelation, highestCorrelation, cut } = wide
  const measure = { of: 'sides', track, belowHz } as const
  const below = FILTER_HZ.findIndex((hz) => hz > belowHz)
  return [
    {
      key: `wide-low-end ${track}`,
      kind: 'wide-low-end',
      tracks: [track],
      hz: Math.sqrt(fromHz * belowHz),
      fromHz,
      toHz: belowHz,
      severity: context.trial.sidesAlone(track, below),
      evidence: { kind: 'wide-low-end', sideShare, lowestCorrelation, highestCorrelation },
      times: [],
      moves: [bandMove(track, 'fit', cut)],
      predicted: predict(context, measure, track, [cut]),
    },
  ]
}

/** Pairs that carry one source and lose energy in their sum. */
function alignmentFindings({ tracks, trial }: Context): Finding[] {
  const spectra = tracks.map(({ reading }) => outlineSpectra(reading.outline))
  const found: Finding[] = []
  for (let a = 0; a < tracks.length; a++) {
    for (let b = a + 1; b < tracks.length; b++) {
      const pair = alignPair(spectra[a], spectra[b], tracks[b].gainDb - tracks[a].gainDb)
      if (!pair || pair.coherence < LEAST_COHERENCE) continue
      if (pair.lostDb < LEAST_CANCELLED_DB) continue
      const delayFrames = Math.round(pair.delaySeconds * trial.sampleRateHz)
      const tracksOfPair = [a, b] as const
      found.push({
        key: `alignment ${a} ${b}`,
        kind: 'alignment',
        tracks: tracksOfPair,
        hz: Math.sqrt(pair.fromHz * pair.toHz),
        fromHz: pair.fromHz,
        toHz: pair.toHz,
        severity:
          trial.together(tracksOfPair, pair.bestRatio) -
          trial.together(tracksOfPair, pair.nowRatio),
        evidence: {
          kind: 'alignment',
          delayFrames,
          turnDeg: pair.turnDeg,
          coherence: pair.coherence,
          lostDb: pair.lostDb,
        },
        times: [],
        moves: [
          {
            kind: 'align',
            owner: b,
            shiftFrames: -delayFrames,
            invert: Math.abs(pair.turnDeg) > 90,
          },
        ],
        predicted: {
          measure: { of: 'cancelled', tracks: tracksOfPair },
          before: pair.lostDb,
          after: pair.lostAlignedDb,
        },
      })
    }
  }
  return found
}

/** Broad regions of the mix that stand out; those that several tracks bring become pile-ups. */
function balanceFindings(context: Context, balance: Balance): Finding[] {
  const { tracks, sums, trial, masked } = context
  const crowded = tracks.map((_, t) => trackMasking(sums, t).crowded)
  const yielding = tracks.flatMap(({ isLead }, t) => (isLead ? [] : [t]))
  return balance.regions.map((region) => {
    const { hz, fromHz, toHz, deviationDb, toleranceDb, move } = region
    const within = (f: number) => f >= fromHz && f <= toHz
    const evened = FILTER_HZ.map((f) => (within(f) ? 10 ** (-deviationDb / 10) : 1))
    const severity = BALANCE_WEIGHT * trial.wholeChange(evened)
    const pile = findPileUp(region, masked, crowded, yielding)
    if (pile) return pileUpFinding(context, region, pile, severity)
    const measure = { of: 'level', track: 'mix', fromHz, toHz, against: 'whole' } as const
    return {
      key: `balance ${placeKey(hz)}`,
      kind: 'balance',
      tracks: [],
      hz,
      fromHz,
      toHz,
      severity,
      evidence: { kind: 'balance', deviationDb, toleranceDb, target: balance.target.kind },
      times: [],
      moves: [bandMove('mix', 'shape', move)],
      predicted: predict(context, measure, 'mix', [move]),
    } satisfies Finding
  })
}

function pileUpFinding(
  { trial, tracks }: Context,
  region: Balance['regions'][number],
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
    tracks: pile.tracks,
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
    moves: yielding.map((track) => bandMove(track, 'fit', cut)),
    predicted: {
      measure: { of: 'heard', track: target },
      before: inMixSone / aloneSone,
      after: (inMixSone + gained[target]) / aloneSone,
    },
  }
}

/** Who covers whom, where a small move brings something back. */
function maskingFindings(
  context: Context,
  others: readonly Finding[],
  onProgress: (share: number) => void,
): Finding[] {
  const candidates = maskingCandidates(context)
    .filter(({ place }) => !others.some((f) => isSameCrowd(f, place)))
    .sort((a, b) => b.severity - a.severity)
    .slice(0, MOST_TRIED)
  const { trial } = context
  const loudness = trial.loudness
  const found = candidates.flatMap(({ place, severity }, index) => {
    onProgress(index / candidates.length)
    const { target, masker, from, to, hz, lostSone, lostShare, where, timeShare, times } = place
    const { band, gainSone } = proposeCut(place, trial)
    const { aloneSone, inMixSone } = loudness[target]
    if (gainSone < LEAST_GAIN * aloneSone) return []
    return [
      {
        key: `masking ${masker} ${target} ${placeKey(hz)}`,
        kind: 'masking',
        tracks: [masker, target],
        hz,
        fromHz: bandEdgeHz(from),
        toHz: bandEdgeHz(to),
        severity,
        evidence: { kind: 'masking', target, masker, lostSone, lostShare, where, timeShare },
        times,
        moves: [bandMove(masker, 'fit', band)],
        predicted: {
          measure: { of: 'heard', track: target },
          before: inMixSone / aloneSone,
          after: (inMixSone + gainSone) / aloneSone,
        },
      } satisfies Finding,
    ]
  })
  return mergeMutual(mergeNeighbours(found, trial), loudness)
}

/** Two tracks that cover each other at one place are one finding: the one that is heard less is its target. */
function mergeMutual(findings: readonly Finding[], loudness: Trial['loudness']): Finding[] {
  const share = (t: number) => loudness[t].inMixSone / Math.max(1e-9, loudness[t].aloneSone)
  const gone = new Set<Finding>()
  const out: Finding[] = []
  for (const finding of findings) {
    if (gone.has(finding)) continue
    const [masker, target] = finding.tracks
    const back = findings.find(
      (f) =>
        !gone.has(f) &&
        f.tracks[0] === target &&
        f.tracks[1] === masker &&
        f.fromHz < finding.toHz &&
        finding.fromHz < f.toHz,
    )
    if (back) gone.add(back)
    const kept = back && share(masker) < share(target) ? back : finding
    const extra = back ? 0.5 * Math.min(back.severity, finding.severity) : 0
    const most = back ? Math.max(back.severity, finding.severity) : finding.severity
    out.push({ ...kept, severity: most + extra })
  }
  return out
}

/** Places next to each other where one track covers another are one finding, with a move for each. */
function mergeNeighbours(findings: readonly Finding[], trial: Trial): Finding[] {
  const out: Finding[] = []
  for (const finding of findings) {
    const at = out.findIndex((f) => isNeighbour(f, finding))
    if (at < 0) out.push(finding)
    else out[at] = merged(out[at], finding, trial)
  }
  return out
}

function isNeighbour(a: Finding, b: Finding): boolean {
  const touch = Math.min(a.toHz, b.toHz) * 1.06 > Math.max(a.fromHz, b.fromHz)
  return touch && a.tracks[0] === b.tracks[0] && a.tracks[1] === b.tracks[1]
}

/** The first is the worse one: its place and times stand for both. */
function merged(worse: Finding, other: Finding, trial: Trial): Finding {
  const [masker, target] = worse.tracks
  const moves = [...worse.moves, ...other.moves]
  const bands = moves.flatMap((m) => (m.kind === 'band' ? [m.band] : []))
  const { aloneSone, inMixSone } = trial.loudness[target]
  const gained = trial.tryMove(masker, bands).inMixSone[target]
  const { evidence } = worse
  if (evidence.kind !== 'masking' || other.evidence.kind !== 'masking') return worse
  return {
    ...worse,
    fromHz: Math.min(worse.fromHz, other.fromHz),
    toHz: Math.max(worse.toHz, other.toHz),
    severity: worse.severity + other.severity,
    evidence: { ...evidence, lostSone: evidence.lostSone + other.evidence.lostSone },
    moves,
    predicted: {
      measure: { of: 'heard', track: target },
      before: inMixSone / aloneSone,
      after: (inMixSone + gained) / aloneSone,
    },
  }
}

function maskingCandidates({ tracks, sums }: Context): { place: MaskingPlace; severity: number }[] {
  const secondsPerFrame = tracks[0]?.reading.bands.secondsPerFrame ?? 1
  const loudness = tracks.map((_, t) => trackMasking(sums, t).aloneSone)
  const found: { place: MaskingPlace; severity: number }[] = []
  for (let target = 0; target < tracks.length; target++) {
    for (let masker = 0; masker < tracks.length; masker++) {
      if (masker === target || tracks[masker].isLead) continue
      if (tracks[masker].gainDb < -100 || tracks[target].gainDb < -100) continue
      for (const place of maskingPlaces(sums, target, masker, secondsPerFrame)) {
        const company = COMPANY[tracks[target].isLead ? 'lead' : 'other'] * loudness[target]
        const beyond = place.lostSone - company
        if (!tracks[target].isLead && place.maskerPart < LEAST_PART) continue
        const severity = tracks[target].isLead ? beyond : ASIDE * beyond
        if (severity >= LEAST_SONE) found.push({ place, severity })
      }
    }
  }
  return found
}

/** A pile-up already tells of the same tracks at the same place. */
function isSameCrowd(finding: Finding, place: MaskingPlace): boolean {
  return (
    finding.kind === 'pile-up' &&
    finding.tracks.includes(place.masker) &&
    finding.fromHz < place.hz &&
    place.hz < finding.toHz
  )
}
