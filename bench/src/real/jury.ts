import { type Clip, makeClip } from '@sober-prism/core/audio'
import {
  type Finding,
  findingEvidence,
  findingTitle,
  moveSentence,
  othersOf,
  type Plan,
  planMoves,
  type SurveyInput,
  surveyClips,
  surveyFindings,
} from '@sober-prism/core/findings'
import { trackMasking } from '@sober-prism/core/hearing'
import { treatClip } from '@sober-prism/core/mix'
import type { Edit } from '@sober-prism/core/session'
import { MIX, newTreatment, type Treatment } from '@sober-prism/core/treatments'
import { scoreAgainst } from '@sober-prism/demo'
import { type RealOptions, type RealSession, realReference, realSession } from './session'

/** So many findings of each session are read. */
const FIRST = 5

/** Figures of all sessions that were read. */
interface Totals {
  sessions: number
  offered: number
  /** Most that one clean session offers. */
  mostInClean: number
  cleanOffered: number
  planted: number
  found: number
  inFirst: number
  /** Moves of findings, and findings that have any. */
  moves: number
  moved: number
  /** By how much shares of leads were foreseen wrong, in points. */
  readonly errors: number[]
  cleanBalance: number
}

/**
 * Sessions as a person can read them in five minutes: the first findings and the plan, in the words of the application,
 * with what was planted beside them. Seeds take turns: with faults, clean.
 */
export async function readToJury(options: {
  readonly band: RealOptions['band']
  readonly many: boolean
  readonly seeds: readonly number[]
}): Promise<void> {
  const { band, many, seeds } = options
  const references = [901, 902, 903].map((seed) => realReference(band, seed))
  const totals: Totals = {
    sessions: 0,
    offered: 0,
    mostInClean: 0,
    cleanOffered: 0,
    planted: 0,
    found: 0,
    inFirst: 0,
    moves: 0,
    moved: 0,
    errors: [],
    cleanBalance: 0,
  }
  for (const seed of seeds) {
    for (const against of [references, null]) {
      const session = realSession({ band, seed, many, against })
      await readSession(session, references, totals)
    }
  }
  const { sessions, errors } = totals
  const clean = seeds.length
  const mean = (n: number, of: number) => (n / Math.max(1, of)).toFixed(2)
  const worst = errors.reduce((most, e) => Math.max(most, e), 0)
  console.log(
    `\n${totals.found} of ${totals.planted} faults offered, ${totals.inFirst} of them in the first ${FIRST}; ` +
      `${mean(totals.offered, sessions)} findings a session are offered, ${mean(totals.cleanOffered, clean)} in a clean one (at most ${totals.mostInClean}), of them of balance ${mean(totals.cleanBalance, clean)}; ` +
      `${mean(totals.moves, totals.moved)} moves a trouble; the plan's error of a lead's share: ${mean(
        errors.reduce((a, b) => a + b, 0),
        errors.length,
      )} points, at most ${worst.toFixed(2)}.`,
  )
}

async function readSession(
  session: RealSession,
  references: readonly Clip[],
  totals: Totals,
): Promise<void> {
  const isClean = session.table.length === 0
  const input = surveyClips(session.tracks, references)
  const findings = surveyFindings(input)
  const plan = planMoves(input, findings)
  const { findings: offered, places } = scoreAgainst(session.table, session.tracks, findings)
  const say = (line: string) => console.log(line)
  say(`\n## Seed ${session.seed}, ${isClean ? 'clean' : 'with faults'}`)
  for (const { fault, place } of places) {
    const { note, tracks, fromHz, toHz, strengthDb } = fault
    say(
      `   planted: ${note} (${tracks.join(', ')}, ${fromHz.toFixed(0)} to ${toHz.toFixed(0)} Hz, ${strengthDb.toFixed(1)} dB): ${place === null ? 'NOT OFFERED' : `place ${place}`}`,
    )
  }
  say(`   offered: ${offered.length}; measured besides: ${findings.length - offered.length}`)
  for (const [i, f] of offered.entries()) {
    const line = `${i + 1}. ${title(f, session)} (${f.severity.toFixed(2)} sone)`
    say(f.unplanted ? line : `${line} [planted]`)
    // The first ones are read, and all of a clean session.
    if (i >= FIRST && !isClean) continue
    const othersNamed = othersOf(f.evidence).map((id) => session.tracks[Number(id)].name)
    say(`     ${findingEvidence({ ...f, names: namesOf(f, session), othersNamed })}`)
    for (const move of f.moves) say(`     > ${moveWords(move, session)}`)
    const p = f.predicted
    if (p) say(`     ${p.measure.of}: ${p.before.toFixed(3)} -> ${p.after.toFixed(3)}`)
  }
  say('   plan:')
  for (const step of plan.steps) {
    say(
      `   - ${step.group}: ${step.moves.map((m) => moveWords(m, session)).join('; ')} (wins ${step.gainSone.toFixed(2)}, costs ${step.costSone.toFixed(2)} sone; leads ${leadShares(step.heard, session)})`,
    )
  }
  const measured = await measuredAfter(plan, session)
  const leads = session.tracks.flatMap((t, i) => (t.isLead ? [i] : []))
  for (const t of leads) {
    const foreseen = (plan.steps.at(-1)?.heard ?? plan.heardBefore).get(String(t)) ?? 0
    const error = 100 * Math.abs(foreseen - measured[t])
    totals.errors.push(error)
    say(
      `   ${session.tracks[t].name} heard ${percent(plan.heardBefore.get(String(t)) ?? 0)}, foreseen ${percent(foreseen)}, measured ${percent(measured[t])}; by faders ${plan.fadersDb} dB`,
    )
  }
  totals.sessions++
  totals.offered += offered.length
  totals.planted += places.length
  totals.found += places.filter((p) => p.place !== null).length
  totals.inFirst += places.filter((p) => (p.place ?? 99) <= FIRST).length
  const withMoves = offered.filter((f) => f.moves.length > 0)
  totals.moved += withMoves.length
  totals.moves += withMoves.reduce((sum, f) => sum + f.moves.length, 0)
  if (isClean) {
    totals.cleanOffered += offered.length
    totals.mostInClean = Math.max(totals.mostInClean, offered.length)
    totals.cleanBalance += offered.filter((f) => f.kind === 'balance').length
  }
}

/** Share of each track heard once all of a plan was done to the sound itself. */
async function measuredAfter(plan: Plan, session: RealSession): Promise<number[]> {
  const edits = plan.steps.flatMap((s) => s.moves)
  const faderOf = (t: number) =>
    edits.reduce(
      (db, e) =>
        e.kind === 'set-node' && e.node === session.tracks[t].id ? (e.change.faderDb ?? db) : db,
      session.tracks[t].gainDb,
    )
  const loud = (t: number) => {
    const gain = 10 ** (faderOf(t) / 20)
    const { clip } = session.tracks[t]
    return makeClip(
      clip.sampleRateHz,
      clip.channels.map((c) => c.map((v) => v * gain)),
    )
  }
  const tracks = []
  for (const [t, track] of session.tracks.entries()) {
    let { clip } = track
    for (const edit of edits) {
      if (!('node' in edit) || edit.node !== track.id) continue
      if (edit.kind === 'change-output-gain') {
        const gain = 10 ** (edit.db / 20)
        clip = makeClip(
          clip.sampleRateHz,
          clip.channels.map((c) => c.map((v) => v * gain)),
        )
        continue
      }
      const treatment = treatmentOf(edit)
      if (!treatment) continue
      const { key } = treatment
      // The threshold against the key's level in its band goes by what is heard of the key at its fader.
      const heard = key ? loud(Number(key.node)) : null
      clip = await treatClip(clip, [treatment], heard ?? undefined)
    }
    tracks.push({ ...track, clip, gainDb: faderOf(t) })
  }
  const after: SurveyInput = surveyClips(tracks)
  return session.tracks.map((_, t) => trackMasking(after.sums, t).audibleShare)
}

function treatmentOf(edit: Edit): Treatment | null {
  if (edit.kind === 'add-treatment') return edit.treatment
  if (edit.kind !== 'add-band') return null
  return newTreatment('equaliser', 'made', edit.stage, {
    phase: 'minimum',
    bands: [edit.chainBand],
  })
}

function namesOf({ tracks }: Finding, session: RealSession): string[] {
  return tracks.map((id) => session.tracks[Number(id)].name)
}

function title(finding: Finding, session: RealSession): string {
  return findingTitle({ ...finding, names: namesOf(finding, session) })
}

function moveWords(edit: Edit, session: RealSession): string {
  const node = 'node' in edit ? edit.node : MIX
  return moveSentence(edit, node === MIX ? 'the mix' : session.tracks[Number(node)].name)
}

function leadShares(heard: ReadonlyMap<string, number>, session: RealSession): string {
  return session.tracks
    .flatMap(({ id, isLead }) => (isLead ? [percent(heard.get(id) ?? 0)] : []))
    .join(', ')
}

function percent(share: number): string {
  return `${(100 * share).toFixed(1)} %`
}
