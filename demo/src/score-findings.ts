import { type Clip, makeClip, sliceClip } from '@sober-prism/core/audio'
import { type Finding, surveyClips, surveyFindings } from '@sober-prism/core/findings'
import { faultsOf, type Planted, plantedTable } from './planted'
import { referenceMakers } from './references'
import { waltzMakers } from './scenario'
import { RATE_HZ } from './sound'

/** The stretch that is surveyed, in seconds: everybody plays in it. */
const PASSAGE_SECONDS = [14, 38] as const
const BARS = 18

/** A finding with the names of its tracks, and whether it answers no fault. */
interface ScoredFinding extends Finding {
  readonly names: readonly string[]
  readonly unplanted: boolean
}

/** What was found in one generated session, held against its table of faults. */
export interface Scored {
  readonly seed: number
  readonly findings: readonly ScoredFinding[]
  /** Per fault: its place in the list from 1, or null when it was not found. */
  readonly places: readonly {
    readonly fault: Planted
    readonly place: number | null
    /** Whether it is among what was measured, with or without a move that is worth it. */
    readonly isMeasured: boolean
  }[]
  /** Findings that answer no fault. */
  readonly others: number
}

/** The tracks of a generated session over the passage, with names and faders. */
export function demoClips(seed: number, planted: boolean) {
  const [from, to] = PASSAGE_SECONDS
  return waltzMakers({ seed, planted, bars: BARS }).map((make, index) => {
    const { name, faderDb, channels } = make()
    const clip = sliceClip(makeClip(RATE_HZ, channels), from * RATE_HZ, to * RATE_HZ)
    return { id: String(index), name, gainDb: faderDb, clip, isLead: name === 'Singer' }
  })
}

export function demoReferences(seed: number): Clip[] {
  return referenceMakers(seed).map((make) => makeClip(RATE_HZ, make().channels))
}

/** One track of {@link demoClips}. */
export type DemoClip = ReturnType<typeof demoClips>[number]

/** Surveys a generated session and looks its faults up in what was found. */
export function scoreSession(
  seed: number,
  planted: boolean,
  tracks: readonly DemoClip[],
  references: readonly Clip[],
): Scored {
  return scoreFindings(seed, planted, tracks, surveyFindings(surveyClips(tracks, references)))
}

/** Looks the faults of a generated session up in what was found there. */
export function scoreFindings(
  seed: number,
  planted: boolean,
  tracks: readonly DemoClip[],
  found: readonly Finding[],
): Scored {
  const table = planted ? plantedTable(faultsOf(seed)) : []
  return { seed, ...scoreAgainst(table, tracks, found) }
}

/**
 * Looks a table of faults up in what is offered of what was found.
 * @param tracks all of them, whose places in the list are the ids that findings name.
 */
export function scoreAgainst(
  table: readonly Planted[],
  tracks: readonly { readonly name: string }[],
  all: readonly Finding[],
): Omit<Scored, 'seed'> {
  const named = all.map((f) => {
    const ids = tracksOf(f)
    const names = ids.length > 0 ? ids.map((id) => tracks[Number(id)].name) : ['mix']
    const told = { ...f, names }
    return { ...told, unplanted: !table.some((fault) => answers(told, fault)) }
  })
  const findings = named.filter((f) => f.offered)
  const places = table.map((fault) => {
    const index = findings.findIndex((f) => answers(f, fault))
    const isMeasured = named.some((f) => answers(f, fault))
    return { fault, place: index < 0 ? null : index + 1, isMeasured }
  })
  const others = findings.filter((f) => f.unplanted).length
  return { findings, places, others }
}

/** All tracks that a finding names. */
function tracksOf({ tracks, evidence }: Finding): string[] {
  return [...tracks, ...(evidence.kind === 'masking' ? evidence.freed : [])]
}

/** Right kind, right tracks, right place. */
function answers(finding: Finding & { names: readonly string[] }, fault: Planted): boolean {
  if (finding.kind !== fault.kind) return false
  if (finding.fromHz >= fault.toHz || finding.toHz <= fault.fromHz) return false
  const named = fault.tracks.filter((t) => finding.names.includes(t)).length
  return fault.kind === 'pile-up' ? named >= 2 : named === fault.tracks.length
}
