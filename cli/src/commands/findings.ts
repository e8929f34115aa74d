import type { Clip } from '@sober-prism/core/audio'
import { type EqBand, newBand } from '@sober-prism/core/filters'
import {
  type Finding,
  findingEvidence,
  findingTitle,
  heardPlayback,
  heardThrough,
  moveSentence,
  othersOf,
  SMALL_SONE,
  type SurveyInput,
  surveyClips,
  surveyFindings,
  type ThroughTrack,
  throughSentence,
} from '@sober-prism/core/findings'
import { DEFAULT_CALIBRATION, MASKING_MODEL, trackMasking } from '@sober-prism/core/hearing'
import { responsePoints } from '@sober-prism/core/playback'
import { type Edit, LISTENING, writeChainFile, writeEqFile } from '@sober-prism/core/session'
import { activeBands, followFilters, type Measure, MIX } from '@sober-prism/core/treatments'
import { parseCall } from '../arguments'
import { UsageError } from '../cli-error'
import { readClip } from '../files'
import { readSessionTracks, readTracks } from '../findings-input'
import type { Command, Surroundings } from '../run'
import { figure } from '../table'
import { readThrough, type Through } from '../through'

const SPEC = {
  usage:
    'findings FILE…|SESSION.prism [--lead FILE]… [--reference FILE]… [--from S --to S] [--mono] [--listening speakers|headphones] [--through NAME|DESCRIPTION.json|IR.wav] [--all] [--json]',
  options: {
    lead: 'strings',
    reference: 'strings',
    from: 'string',
    to: 'string',
    mono: 'boolean',
    listening: 'string',
    all: 'boolean',
    through: 'string',
  },
  files: { min: 1, max: Number.POSITIVE_INFINITY },
} as const

/** `prism findings`: what covers, rings, booms or thins in a session, in order of harm. */
export const findings: Command = async (args, around) => {
  const call = parseCall(args, SPEC)
  const leads = call.list('lead')
  const unknown = leads.find((lead) => !call.files.includes(lead))
  if (unknown !== undefined) {
    throw new UsageError(`--lead ${unknown} is none of the files`, SPEC.usage)
  }
  const stretch = { from: call.number('from'), to: call.number('to') }
  const [first, ...others] = call.files
  const isSession = others.length === 0 && /\.prism(#\d)?$/i.test(first)
  if (isSession && leads.length > 0) {
    throw new UsageError('--lead applies to files; a session stores its leads', SPEC.usage)
  }
  const { names, tracks, references } = isSession
    ? await readSessionTracks(around.cwd, first, stretch, around.progress)
    : {
        ...(await readTracks(around.cwd, call.files, leads, stretch, around.progress)),
        references: [],
      }
  const compared: Clip[] = [...references]
  for (const file of call.list('reference')) compared.push(await readClip(around.cwd, file))
  around.progress('measuring')
  const mode = call.flag('mono') ? 'mono' : 'stereo'
  const listening = call.choice('listening', LISTENING, 'speakers')
  const given = call.text('through')
  if (given !== undefined) {
    const [{ clip }] = tracks
    const through = await readThrough(around.cwd, given, clip.sampleRateHz)
    const survey = surveyClips(tracks, compared, { mode, listening })
    return tellThrough(survey, names, through, call.json, around)
  }
  const input = surveyClips(tracks, compared, { mode, listening })
  const all = surveyFindings(input, (share) =>
    around.progress(`trying moves out ${Math.round(100 * share)} %`),
  )
  const found = all.filter((f) => f.offered)
  const measured = all.filter((f) => !f.offered)
  around.progress('')
  if (call.json) {
    const document = {
      model: MASKING_MODEL,
      calibration: DEFAULT_CALIBRATION,
      findings: found.map((f) => toJson(f, names)),
      measured: measured.map((f) => toJson(f, names)),
    }
    around.out(`${JSON.stringify(document)}\n`)
    return
  }
  if (found.every((f) => f.severity < SMALL_SONE)) {
    const besides = found.length > 0 ? '; what follows is small' : ': no finding is worth a move'
    around.out(`The session is in order${besides}.\n`)
  }
  for (const finding of call.flag('all') ? all : found) {
    const { title, evidence, moves } = wordsOf(finding, names)
    const lines = [`${figure(finding.severity, 2)} sone  ${title}`, evidence, ...moves]
    around.out(`${lines.join('\n           ')}\n`)
  }
  if (measured.length > 0 && !call.flag('all')) {
    around.out(
      `${measured.length} more were measured that are not worth a move: --all lists them.\n`,
    )
  }
}

/** Who is hidden behind a playback and was not here. */
function tellThrough(
  survey: SurveyInput,
  names: readonly string[],
  { name, where, response, playback }: Through,
  isJson: boolean,
  around: Surroundings,
): void {
  around.progress(`listening ${where}`)
  const { sampleRateHz } = survey.settings
  const described = playback ?? { dbSpl: null, listening: null, noise: null, asLoudAs: false }
  const behind = heardPlayback(response, described, sampleRateHz)
  const shares = new Map(
    survey.tracks.map(({ id }, t) => [id, trackMasking(survey.sums, t).audibleShare]),
  )
  const heard = heardThrough(survey, behind, shares)
  around.progress('')
  const lost = heard.filter((t) => t.isLost).sort((a, b) => b.lostSone - a.lostSone)
  if (isJson) {
    const document = {
      model: MASKING_MODEL,
      calibration: DEFAULT_CALIBRATION,
      through: {
        name,
        where,
        dbSpl: described.dbSpl,
        response: responsePoints(response, sampleRateHz),
      },
      heard: heard.map(({ track, here, there }) => ({ track: nameOf(track, names), here, there })),
      findings: lost.map((t) => lostJson(t, names, where)),
      measured: [],
    }
    around.out(`${JSON.stringify(document)}\n`)
    return
  }
  if (lost.length === 0) around.out(`Nobody is lost ${where} who is heard here.\n`)
  for (const t of lost) {
    const moves = t.moves.map((m) =>
      moveSentence(m, 'node' in m && m.node !== MIX ? nameOf(m.node, names) : 'the mix'),
    )
    const after = t.after === null ? [] : [`heard ${where} then: ${figure(100 * t.after, 0)} %`]
    const lines = [throughSentence(nameOf(t.track, names), where, t), ...moves, ...after]
    around.out(`${lines.join('\n  ')}\n`)
  }
}

function lostJson(lost: ThroughTrack, names: readonly string[], where: string) {
  const { track, here, there, lostSone, carries, moves, after } = lost
  const { fromHz, toHz } = carries ?? { fromHz: null, toHz: null }
  const name = nameOf(track, names)
  return {
    kind: 'masking',
    form: 'lost-in-playback',
    tracks: [name],
    hz: fromHz !== null && toHz !== null ? Math.sqrt(fromHz * toHz) : null,
    fromHz,
    toHz,
    severity: lostSone,
    evidence: { here, there, sentence: throughSentence(name, where, lost) },
    moves: moves.flatMap((move) => moveJson(move, names)),
    predicted: after === null ? null : { measure: 'heard', track: name, before: there, after },
  }
}

/** A finding as the contract has it. A pile-up is a kind of masking; `form` tells it apart. */
function toJson(finding: Finding, files: readonly string[]) {
  const { kind, tracks, hz, fromHz, toHz, severity, evidence, times, moves, predicted } = finding
  const words = wordsOf(finding, files)
  const name = (id: string) => nameOf(id, files)
  return {
    kind: kind === 'pile-up' ? 'masking' : kind,
    form: kind,
    tracks: tracks.length > 0 ? tracks.map(name) : ['mix'],
    hz,
    fromHz,
    toHz,
    severity,
    title: words.title,
    evidence: { ...withNames(evidence, files), sentence: words.evidence, times },
    moves: moves.flatMap((move) => moveJson(move, files)),
    predicted: predicted && {
      ...withMeasureNames(predicted.measure, files),
      before: predicted.before,
      after: predicted.after,
    },
  }
}

/** Tracks are known by their place among the files. */
function nameOf(id: string, files: readonly string[]): string {
  return id === MIX ? 'mix' : files[Number(id)]
}

/** A move as an EQ file and, for what bands cannot say, a chain file. */
function moveJson(move: Edit, files: readonly string[]): object[] {
  if (move.kind === 'add-band') {
    return [{ track: nameOf(move.node, files), eq: eqOf([move.chainBand.band]) }]
  }
  // Files come at the levels that they have in the mix: a fader is told as what to add.
  if (move.kind === 'set-node' && move.change.faderDb !== undefined) {
    return [{ track: nameOf(move.node, files), eq: eqOf([]), faderDb: move.change.faderDb }]
  }
  if (move.kind !== 'add-treatment') return []
  const { node, treatment } = move
  const track = nameOf(node, files)
  const chain = JSON.parse(writeChainFile([treatment]))
  switch (treatment.kind) {
    case 'align': {
      const { delayFrames, polarity, turnDeg } = treatment.params
      const turned = polarity === -1 ? 'inverted' : 'normal'
      const shiftFrames = Math.round(delayFrames)
      return [{ track, eq: eqOf([]), shiftFrames, polarity: turned, turnDeg, chain }]
    }
    case 'low-middle': {
      const { hz, slopeDbPerOct } = treatment.params
      // The nearest that bands can do: a low cut on the sides.
      const band = { ...newBand('low-cut', hz), slopeDbPerOct, channel: 'side' as const }
      return [{ track, eq: eqOf([band]), chain }]
    }
    case 'follow': {
      // The nearest that resting bands can do: half of the depth, all of the time.
      const bands = treatment.params.bands.flatMap((b) => followFilters(b, b.rangeDb / 2))
      return [{ track, eq: eqOf(bands), chain }]
    }
    case 'equaliser':
      return [{ track, eq: eqOf(activeBands(treatment.params).map((m) => m.band)), chain }]
    default:
      return [{ track, eq: eqOf([]), chain }]
  }
}

function eqOf(bands: readonly EqBand[]): unknown {
  return JSON.parse(writeEqFile(bands))
}

function withNames(evidence: Finding['evidence'], files: readonly string[]): object {
  const name = (id: string) => nameOf(id, files)
  if (evidence.kind === 'balance') {
    const { mostly } = evidence
    return { ...evidence, mostly: mostly && { ...mostly, track: name(mostly.track) } }
  }
  if (evidence.kind !== 'masking') return evidence
  const { target, masker, freed } = evidence
  return { ...evidence, target: name(target), masker: name(masker), freed: freed.map(name) }
}

function withMeasureNames(measure: Measure, files: readonly string[]): object {
  const { of, ...rest } = measure
  if ('tracks' in rest) return { measure: of, tracks: rest.tracks.map((t) => nameOf(t, files)) }
  return { measure: of, ...rest, track: nameOf(rest.track, files) }
}

function wordsOf(finding: Finding, files: readonly string[]) {
  const named = {
    ...finding,
    names: finding.tracks.map((t) => nameOf(t, files)),
    othersNamed: othersOf(finding.evidence).map((t) => nameOf(t, files)),
  }
  const node = (m: Edit) => ('node' in m && m.node !== MIX ? nameOf(m.node, files) : 'the mix')
  return {
    title: findingTitle(named),
    evidence: findingEvidence(named),
    moves: finding.moves.map((m) => moveSentence(m, node(m))),
  }
}
