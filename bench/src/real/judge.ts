import type { Clip } from '@sober-prism/core/audio'
import {
  FINDING_KINDS,
  type Finding,
  type FindingKind,
  findingTitle,
  moveSentence,
  type Plan,
  planMoves,
  SMALL_SONE,
  type SurveyInput,
  surveyClips,
  surveyFindings,
} from '@sober-prism/core/findings'
import { longTermPower } from '@sober-prism/core/spectrum'
import { MIX } from '@sober-prism/core/treatments'
import { scoreAgainst } from '@sober-prism/demo'
import { THIRDS } from './fault-measures'
import { type RealOptions, type RealSession, realReference, realSession } from './session'
import { isFaultByMeasure } from './unplanted'

/** What findings of some kinds did over some sessions. */
interface Tally {
  planted: number
  found: number
  readonly places: number[]
  /** Findings that are not small and answer no fault. */
  extra: number
  inClean: number
  /** Of those in clean sessions, the ones that are no fault by measure either: see {@link isFaultByMeasure}. */
  untrue: number
}

export interface JudgeOptions extends Pick<RealOptions, 'band' | 'many'> {
  readonly seeds: readonly number[]
  /** Says every finding that is not small, and every move of the plan. */
  readonly list: boolean
}

/** Surveys sessions of sampled instruments with and without faults, and prints what was found as tables. */
export function judgeReal({ band, many, seeds, list }: JudgeOptions): void {
  const tallies = new Map<FindingKind, Tally>(
    FINDING_KINDS.map((kind) => [
      kind,
      { planted: 0, found: 0, places: [], extra: 0, inClean: 0, untrue: 0 },
    ]),
  )
  const of = (kind: FindingKind) => tallies.get(kind) as Tally
  const references = [901, 902, 903].map((seed) => realReference(band, seed))
  const usual = references.map((mix) => longTermPower(mix, THIRDS))
  const say = (line: string) => console.log(line)
  let [cleanTracks, cleanLarge] = [0, 0]
  say('| seed | tracks | faults found | among the first ten | not small | clean: not small |')
  say('|---|---|---|---|---|---|')
  const listed: string[] = []
  for (const seed of seeds) {
    const faulty = realSession({ band, seed, many, against: references })
    const withFaults = survey(faulty, references)
    const scored = scoreAgainst(faulty.table, faulty.tracks, withFaults.findings)
    for (const { fault, place } of scored.places) {
      const tally = of(fault.kind)
      tally.planted++
      if (place === null) continue
      tally.found++
      tally.places.push(place)
    }
    const large = scored.findings.filter(isLarge)
    for (const f of large) if (f.unplanted) of(f.kind).extra++
    const clean = realSession({ band, seed, many, against: null })
    const withoutFaults = survey(clean, references)
    const cleanFindings = withoutFaults.findings.filter(isLarge)
    const byMeasure = new Map(cleanFindings.map((f) => [f, isFaultByMeasure(f, clean, usual)]))
    for (const [f, isFault] of byMeasure) {
      of(f.kind).inClean++
      if (!isFault) of(f.kind).untrue++
    }
    cleanTracks += clean.tracks.length
    cleanLarge += cleanFindings.length
    const found = scored.places.filter((p) => p.place !== null)
    const first = found.filter((p) => (p.place ?? 99) <= 10)
    say(
      `| ${seed} | ${faulty.tracks.length} | ${found.length} of ${scored.places.length} | ${first.length} | ${large.length} | ${cleanFindings.length} |`,
    )
    if (!list) continue
    const missed = scored.places.filter((p) => p.place === null)
    listed.push(
      `\nseed ${seed}, with faults; missed: ${missed.map(({ fault }) => `${fault.note} (${fault.tracks.join(', ')}, ${fault.fromHz.toFixed(0)} to ${fault.toHz.toFixed(0)} Hz, ${fault.strengthDb.toFixed(1)} dB)`).join('; ') || 'nothing'}`,
      ...scored.findings
        .filter(isLarge)
        .map((f) => `${f.unplanted ? '  ' : '* '}${told(f, faulty)}`),
      `seed ${seed}, clean`,
      ...cleanFindings.map((f) => `${byMeasure.get(f) ? '+ ' : '  '}${told(f, clean)}`),
      ...plannedMoves(withoutFaults.plan(), clean),
    )
  }
  say(
    '\n| kind | found | its place, median | not planted, a session | in clean sessions, a session | of them no fault by measure |',
  )
  say('|---|---|---|---|---|---|')
  const mean = (n: number) => (n / seeds.length).toFixed(1)
  for (const [kind, t] of tallies) {
    const places = t.places.sort((a, b) => a - b)
    const middle = places.length > 0 ? String(places[places.length >> 1]) : ''
    say(
      `| ${kind} | ${t.found} of ${t.planted} | ${middle} | ${mean(t.extra)} | ${mean(t.inClean)} | ${mean(t.untrue)} |`,
    )
  }
  const all = [...tallies.values()]
  const total = (pick: (t: Tally) => number) => all.reduce((sum, t) => sum + pick(t), 0)
  say(
    `\nAll: ${total((t) => t.found)} of ${total((t) => t.planted)} found; clean sessions hold ${(cleanLarge / seeds.length).toFixed(2)} findings that are not small, ${(cleanLarge / cleanTracks).toFixed(2)} a track; ${(total((t) => t.untrue) / seeds.length).toFixed(2)} of them are no fault by measure.`,
  )
  for (const line of listed) say(line)
}

const isLarge = (f: Finding) => f.offered && f.severity >= SMALL_SONE

function survey(session: RealSession, references: readonly Clip[]) {
  const input: SurveyInput = surveyClips(session.tracks, references)
  const findings = surveyFindings(input)
  return { findings, plan: () => planMoves(input, findings) }
}

function told(finding: Finding, session: RealSession): string {
  const names = finding.tracks.map((id) => session.tracks[Number(id)].name)
  return `${finding.severity.toFixed(2)} sone  ${findingTitle({ ...finding, names })}  [${Math.round(finding.hz)} Hz]`
}

function plannedMoves(plan: Plan, session: RealSession): string[] {
  const nameOf = (node: string) => (node === MIX ? 'the mix' : session.tracks[Number(node)].name)
  const moves = plan.steps.map(({ group, moves, nodes, gainSone, costSone }) => {
    const words = moves.map((m) => moveSentence(m, nameOf('node' in m ? m.node : nodes[0])))
    return `  plan, ${group}: ${words.join('; ')}: wins ${gainSone.toFixed(2)}, costs ${costSone.toFixed(2)} sone`
  })
  const heard = [plan.heardBefore, plan.steps.at(-1)?.heard ?? plan.heardBefore].map((shares) =>
    session.tracks.flatMap(({ isLead }, t) =>
      isLead ? [Math.round(100 * (shares.get(String(t)) ?? 0))] : [],
    ),
  )
  return [...moves, `  lead heard ${heard.join(' to ')} %, by faders ${plan.fadersDb} dB`]
}
