import * as z from 'zod'
import { STAGES, type StageName, type Treatment } from '../treatments'
import { type FileTreatments, fileTreatments, readTreatments, writeTreatments } from './chain-file'
import { DocumentError, parsedBy } from './document-error'
import type { Edit } from './edit'
import { parseJson } from './eq-file'

/** What a preset holds: one treatment, everything of one stage, or a whole chain. */
export const PRESET_SCOPES = ['treatment', 'stage', 'chain'] as const
export type PresetScope = (typeof PRESET_SCOPES)[number]

const presetSchema = z.strictObject({
  name: z.string().trim().min(1).max(100),
  /** What it is for, in a sentence or two. */
  words: z.string().max(1000).default(''),
  tags: z.array(z.string().trim().min(1).max(40)).max(20).default([]),
  scope: z.enum(PRESET_SCOPES),
  treatments: fileTreatments.min(1),
})

const fileSchema = z.strictObject({
  version: z.literal(1),
  presets: z.array(presetSchema).max(1000),
})

/** Treatments kept under a name. */
export interface Preset {
  readonly name: string
  readonly words: string
  readonly tags: readonly string[]
  readonly scope: PresetScope
  /** With ids that mean nothing outside the preset, without keys, reasons and evidence. */
  readonly treatments: readonly Treatment[]
}

/**
 * Reads a file of presets (docs/formats.md). Strict: what does not fit is told by its path, and nothing is half-read.
 * @throws DocumentError
 */
export function parsePresetFile(text: string): Preset[] {
  const { presets } = parsedBy(fileSchema, parseJson(text, 'preset file'), 'preset file')
  return presets.map((preset, i) => {
    const { scope, treatments: list } = preset
    const treatments = readTreatments(list, `preset file at presets[${i}]`)
    const stages = new Set(treatments.map((t) => t.stage))
    const isOne = scope === 'treatment' ? treatments.length === 1 : stages.size === 1
    if (scope !== 'chain' && !isOne) {
      const holds = scope === 'treatment' ? 'one treatment' : 'treatments of one stage'
      throw new DocumentError(
        `The preset file at presets[${i}] cannot be read: a ${scope} preset holds ${holds}.`,
      )
    }
    return { ...preset, treatments }
  })
}

/** Writes presets as a file. */
export function writePresetFile(presets: readonly Preset[]): string {
  const list = presets.map(({ name, words, tags, scope, treatments }) => ({
    name,
    words,
    tags: [...tags],
    scope,
    treatments: writeTreatments(treatments) as FileTreatments,
  }))
  return JSON.stringify({ version: 1, presets: list }, null, 2)
}

/** How a preset comes into a chain. */
export interface PresetPlace {
  readonly node: string
  readonly present: readonly Treatment[]
  /** Where a preset of one treatment or stage goes; null for the stage it was made in. */
  readonly stage: StageName | null
  /** Takes the place of the treatment with this id; of its stage, or of the chain. */
  readonly replaces: 'nothing' | 'same-scope' | { readonly treatment: string }
}

/** The edits that bring a preset into a chain; each treatment remembers where it comes from as its reason. */
export function presetEdits(
  preset: Preset,
  { node, present, stage, replaces }: PresetPlace,
  newId: () => string,
): Edit[] {
  const staged = preset.treatments.map((t) => ({
    ...t,
    stage: preset.scope === 'chain' ? t.stage : (stage ?? t.stage),
  }))
  const stages = new Set(staged.map((t) => t.stage))
  const goes = present.filter((t) => {
    if (replaces === 'nothing') return false
    if (typeof replaces === 'object') return t.id === replaces.treatment
    return preset.scope === 'chain' || stages.has(t.stage)
  })
  // A single treatment stands where the one stood whose place it takes.
  const at = present.findIndex((t) => t.id === goes[0]?.id)
  const next = typeof replaces === 'object' ? present.slice(at + 1) : []
  const before = next.find((t) => t.stage === staged[0].stage)?.id ?? null
  return [
    ...goes.map((t): Edit => ({ kind: 'remove-treatment', node, treatment: t.id })),
    ...[...staged]
      .sort((a, b) => STAGES.indexOf(a.stage) - STAGES.indexOf(b.stage))
      .map((t): Edit => {
        const treatment = withNewIds({ ...t, id: newId(), reason: `Preset: ${preset.name}` }, newId)
        return { kind: 'add-treatment', node, treatment, before }
      }),
  ]
}

/** Bands have ids that are theirs alone in the whole session. */
function withNewIds(treatment: Treatment, newId: () => string): Treatment {
  if (treatment.kind !== 'equaliser') return treatment
  const bands = treatment.params.bands.map((chainBand) => ({ ...chainBand, id: newId() }))
  return { ...treatment, params: { ...treatment.params, bands } }
}
