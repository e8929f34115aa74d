import { type Clip, resample } from '@sober-prism/core/audio'
import {
  type Finding,
  findingEvidence,
  findingTitle,
  moveSentence,
  surveyClips,
  surveyFindings,
} from '@sober-prism/core/findings'
import { DEFAULT_CALIBRATION, MASKING_MODEL } from '@sober-prism/core/hearing'
import { parseCall } from './arguments'
import { UsageError } from './cli-error'
import { cutSeconds, readClip } from './files'
import type { Command } from './run'
import { figure } from './table'

const SPEC = {
  usage: 'findings FILE… [--lead FILE]… [--reference FILE]… [--from S --to S] [--mono] [--json]',
  options: {
    lead: 'strings',
    reference: 'strings',
    from: 'string',
    to: 'string',
    mono: 'boolean',
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
  const [from, to] = [call.number('from'), call.number('to')]
  const clips: Clip[] = []
  for (const file of call.files) {
    around.progress(`reading ${file}`)
    clips.push(cutSeconds(await readClip(around.cwd, file), file, from, to))
  }
  const references: Clip[] = []
  for (const file of call.list('reference')) references.push(await readClip(around.cwd, file))
  const rate = Math.max(...clips.map((c) => c.sampleRateHz))
  around.progress('measuring')
  const tracks = clips.map((clip, i) => ({
    clip: resample(clip, rate),
    gainDb: 0,
    isLead: leads.includes(call.files[i]),
  }))
  const mode = call.flag('mono') ? 'mono' : 'stereo'
  const input = surveyClips(tracks, references, mode)
  const found = surveyFindings(input, (share) =>
    around.progress(`trying moves out ${Math.round(100 * share)} %`),
  )
  around.progress('')
  if (call.json) {
    const document = {
      model: MASKING_MODEL,
      calibration: DEFAULT_CALIBRATION,
      findings: found.map((f) => toJson(f, call.files)),
    }
    around.out(`${JSON.stringify(document)}\n`)
    return
  }
  if (found.length === 0) around.out('Nothing was found that a move would be worth.\n')
  for (const finding of found) {
    const { title, evidence, moves } = wordsOf(finding, call.files)
    const lines = [`${figure(finding.severity, 2)} sone  ${title}`, evidence, ...moves]
    around.out(`${lines.join('\n           ')}\n`)
  }
}

/** A finding as the contract has it. A pile-up is a kind of masking; `form` tells it apart. */
function toJson(finding: Finding, files: readonly string[]) {
  const { kind, tracks, hz, fromHz, toHz, severity, evidence, times, moves, predicted } = finding
  const words = wordsOf(finding, files)
  const name = (owner: number | 'mix') => (owner === 'mix' ? 'mix' : files[owner])
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
    moves: moves.map((move) =>
      move.kind === 'band'
        ? { track: name(move.owner), eq: { version: 1, bands: [eqBand(move.band)] } }
        : {
            track: name(move.owner),
            eq: { version: 1, bands: [] },
            shiftFrames: move.shiftFrames,
            polarity: move.invert ? 'inverted' : 'normal',
          },
    ),
    predicted: predicted && {
      ...withMeasureNames(predicted.measure, files),
      before: predicted.before,
      after: predicted.after,
    },
  }
}

/** A band with the values that its type has. */
function eqBand(band: Extract<Finding['moves'][number], { kind: 'band' }>['band']) {
  const { type, hz, db, q, slopeDbPerOct, channel } = band
  if (type === 'low-cut' || type === 'high-cut') return { type, hz, slopeDbPerOct, channel }
  return { type, hz, db, q, channel }
}

function withNames(evidence: Finding['evidence'], files: readonly string[]): object {
  if (evidence.kind !== 'masking') return evidence
  return { ...evidence, target: files[evidence.target], masker: files[evidence.masker] }
}

function withMeasureNames(
  measure: NonNullable<Finding['predicted']>['measure'],
  files: readonly string[],
): object {
  const { of, ...rest } = measure
  if ('tracks' in rest) return { measure: of, tracks: rest.tracks.map((t) => files[t]) }
  return { measure: of, ...rest, track: rest.track === 'mix' ? 'mix' : files[rest.track] }
}

function wordsOf(finding: Finding, files: readonly string[]) {
  const named = { ...finding, names: finding.tracks.map((t) => files[t]) }
  return {
    title: findingTitle(named),
    evidence: findingEvidence(named),
    moves: finding.moves.map((m) =>
      moveSentence({ ...m, owner: m.owner === 'mix' ? 'the mix' : files[m.owner] }),
    ),
  }
}
