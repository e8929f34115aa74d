import { type Finding, LEAST_SONE, SMALL_SONE } from './finding'

/** A session in order has so many findings at most; another so many for each that is not small. */
const MOST_IN_ORDER = 3
const TO_LARGE = 2
/** Ranges that share this part of the narrower one, in octaves, are at one place. */
const SAME_RANGE = 0.5
/** What is harsh for longer than this part of the time is sharp, and not only in its sibilants. */
const SHARP_TIME = 0.25

/**
 * Findings that matter at all, worst first: those that are offered, then what was only measured. Of two that contradict
 * each other, or tell one thing twice, the worse one is offered.
 */
export function rankFindings(findings: readonly Finding[]): Finding[] {
  const sorted = findings
    .filter((f) => f.severity >= LEAST_SONE)
    .sort((a, b) => b.severity - a.severity)
  const offered: Finding[] = []
  const measured: Finding[] = []
  for (const finding of sorted) {
    const isTold = (worse: Finding) => isTwice(worse, finding) || isAgainst(worse, finding)
    const isLeftOut = offered.some(isTold) || sorted.some((f) => isRest(f, finding))
    if (!finding.offered) measured.push(finding)
    else if (isLeftOut) measured.push(onlyMeasured(finding))
    else offered.push(finding)
  }
  // A list is read as far as it is worth it: beside few that matter few small ones are told.
  const large = offered.filter((f) => f.severity >= SMALL_SONE).length
  const most = Math.max(MOST_IN_ORDER, TO_LARGE * large)
  return [...offered.slice(0, most), ...offered.slice(most).map(onlyMeasured), ...measured]
}

function onlyMeasured(finding: Finding): Finding {
  return { ...finding, offered: false, moves: [], predicted: null }
}

/** Whether two tell of one place in one sound. */
function isTwice(a: Finding, b: Finding): boolean {
  return a.kind === b.kind && a.tracks.join() === b.tracks.join() && isSameRange(a, b)
}

/** Whether one takes away where the other asks for more. */
function isAgainst(a: Finding, b: Finding): boolean {
  return isSameRange(a, b) && ((asksForMore(a) && takes(b)) || (asksForMore(b) && takes(a)))
}

/** Whether the second is only what the first leaves: beside a top that is far too strong the lows seem weak. */
function isRest({ offered, evidence: a }: Finding, { evidence: b }: Finding): boolean {
  if (!offered || a.kind !== 'balance' || b.kind !== 'balance') return false
  const isOpposite = Math.sign(a.deviationDb) !== Math.sign(b.deviationDb)
  return isOpposite && Math.abs(b.deviationDb) < Math.abs(a.deviationDb)
}

function asksForMore({ evidence }: Finding): boolean {
  return evidence.kind === 'balance' && evidence.deviationDb < 0
}

/** Whether it takes from a range all of the time, or calls it sharp. */
function takes({ kind, evidence }: Finding): boolean {
  return (
    kind === 'masking' ||
    kind === 'pile-up' ||
    (evidence.kind === 'harshness' && evidence.timeShare > SHARP_TIME)
  )
}

function isSameRange(a: Finding, b: Finding): boolean {
  const octaves = (f: Pick<Finding, 'fromHz' | 'toHz'>) => Math.log2(f.toHz / f.fromHz)
  const shared = Math.log2(Math.min(a.toHz, b.toHz) / Math.max(a.fromHz, b.fromHz))
  return shared >= SAME_RANGE * Math.min(octaves(a), octaves(b))
}
