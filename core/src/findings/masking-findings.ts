import { bandEdgeHz, trackMasking } from '../hearing'
import { type Finding, LEAST_SONE } from './finding'
import { type MaskingPlace, maskingPlaces, proposeCut } from './masking-places'
import { bandsOf } from './predict-moves'
import { areOneSource, bandMove, type Context, placeKey } from './survey-input'

/** Loudness that any company costs: this share of a lead's own, or of another track's, is no fault. */
const COMPANY = { lead: 0.028, other: 0.06 } as const
/** Of what a track loses to one other so much counts in any case. */
const LEAST_COUNTED = 0.1
/** What is lost to a track that is no lead counts for less where no lead is concerned. */
const ASIDE = 0.3
/** A masker is named for a track that is no lead when at least this part of the loss is its doing. */
const LEAST_PART = 0.3
/** A masking move must bring back this much of the target's loudness. */
const LEAST_GAIN = 0.001
/** A cut that brings back this part of what is lost makes all of it avoidable; of the rest this part counts. */
const AVOIDABLE_SHARE = 0.25
const UNAVOIDABLE = 0.6
/** Candidates that are tried out with the model, at most. */
const MOST_TRIED = 24

/** Masking, where a small move brings something back. */
export function maskingFindings(
  context: Context,
  others: readonly Finding[],
  onProgress: (share: number) => void,
): Finding[] {
  const candidates = maskingCandidates(context)
    .filter(({ place }) => !others.some((f) => isSameCrowd(f, place, context)))
    .sort((a, b) => b.severity - a.severity)
    .slice(0, MOST_TRIED)
    // Two that carry one source do not cover each other: they add up.
    .filter(({ place: { target, masker } }) => !areOneSource(context, target, masker))
  const { trial, tracks } = context
  const loudness = trial.loudness
  const found = candidates.flatMap(({ place, severity }, index) => {
    onProgress(index / candidates.length)
    const { target, masker, from, to, hz, lostSone, lostShare, where, timeShare, times } = place
    const { band, gainSone } = proposeCut(place, trial)
    const { aloneSone, inMixSone } = loudness[target]
    const [maskerId, targetId] = [tracks[masker].id, tracks[target].id]
    if (gainSone < LEAST_GAIN * aloneSone) return []
    const avoidable = Math.min(1, gainSone / (AVOIDABLE_SHARE * lostSone))
    return [
      {
        key: `masking ${maskerId} ${targetId} ${placeKey(hz)}`,
        kind: 'masking',
        tracks: [maskerId, targetId],
        hz,
        fromHz: bandEdgeHz(from),
        toHz: bandEdgeHz(to),
        severity: severity * (UNAVOIDABLE + (1 - UNAVOIDABLE) * avoidable),
        evidence: {
          kind: 'masking',
          target: targetId,
          masker: maskerId,
          lostSone,
          lostShare,
          where,
          timeShare,
        },
        times,
        moves: [bandMove(maskerId, 'fit', band)],
        predicted: {
          measure: { of: 'heard', track: targetId },
          before: inMixSone / aloneSone,
          after: (inMixSone + gainSone) / aloneSone,
        },
      } satisfies Finding,
    ]
  })
  return mergeMutual(mergeNeighbours(found, context), context)
}

/** Two tracks that cover each other at one place are one finding: the one that is heard less is its target. */
function mergeMutual(findings: readonly Finding[], context: Context): Finding[] {
  const { loudness } = context.trial
  const share = (id: string) => {
    const { inMixSone, aloneSone } = loudness[indexOf(context, id)]
    return inMixSone / Math.max(1e-9, aloneSone)
  }
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
function mergeNeighbours(findings: readonly Finding[], context: Context): Finding[] {
  const out: Finding[] = []
  for (const finding of findings) {
    const at = out.findIndex((f) => isNeighbour(f, finding))
    if (at < 0) out.push(finding)
    else out[at] = merged(out[at], finding, context)
  }
  return out
}

function isNeighbour(a: Finding, b: Finding): boolean {
  const touch = Math.min(a.toHz, b.toHz) * 1.06 > Math.max(a.fromHz, b.fromHz)
  return touch && a.tracks[0] === b.tracks[0] && a.tracks[1] === b.tracks[1]
}

/** The first is the worse one: its place and times stand for both. */
function merged(worse: Finding, other: Finding, context: Context): Finding {
  const { trial } = context
  const [masker, target] = worse.tracks.map((id) => indexOf(context, id))
  const moves = [...worse.moves, ...other.moves]
  const bands = bandsOf(moves, worse.tracks[0])
  const { aloneSone, inMixSone } = trial.loudness[target]
  const gained = trial.wonBy(masker, bands, target)
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
      measure: { of: 'heard', track: worse.tracks[1] },
      before: inMixSone / aloneSone,
      after: (inMixSone + gained) / aloneSone,
    },
  }
}

function maskingCandidates({ tracks, sums }: Context): { place: MaskingPlace; severity: number }[] {
  const loudness = tracks.map((_, t) => trackMasking(sums, t).aloneSone)
  const found: { place: MaskingPlace; severity: number }[] = []
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

function indexOf({ tracks }: Context, id: string): number {
  return tracks.findIndex((t) => t.id === id)
}
