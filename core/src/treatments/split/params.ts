import * as z from 'zod'
import { CROSSOVER_SLOPES, type CrossoverDesign, type CrossoverSpec } from '../../filters'
import { align } from '../align'
import { broadStrokes } from '../broad-strokes'
import { drive } from '../drive'
import { equaliser } from '../equaliser'
import { itemId } from '../evidence'
import type { AnyForm } from '../kind'
import { leveller } from '../leveller'

/** What a band's own chain may hold: kinds that listen to nothing else and treat the whole of what they get. */
export const BAND_KINDS = {
  equaliser,
  'broad-strokes': broadStrokes,
  drive,
  leveller,
  align,
} as const
export type BandKind = keyof typeof BAND_KINDS

/** A treatment in the chain of one band. */
export type BandTreatment = {
  [K in BandKind]: {
    id: string
    kind: K
    on: boolean
    params: ReturnType<(typeof BAND_KINDS)[K]['defaults']>
  }
}[BandKind]

export const MOST_IN_BAND = 8
export const MOST_SPLITS = 4

const forms = Object.values(BAND_KINDS) as unknown as AnyForm[]

function bandSchema<Treatments extends z.ZodType>(treatments: Treatments) {
  return z.strictObject({
    levelDb: z.number().min(-60).max(24),
    /** Share of the sides: 1 as they are, 0 mono. */
    width: z.number().min(0).max(2),
    /** For listening only: the others are silent. */
    solo: z.boolean(),
    mute: z.boolean(),
    treatments,
  })
}

function splitSchema<Band extends z.ZodType>(band: Band) {
  return z
    .strictObject({
      crossover: z.enum(['linkwitz-riley', 'linear', 'subtractive']),
      slopeDbPerOct: z.literal(CROSSOVER_SLOPES),
      /** Where the bands meet, rising. */
      hz: z.array(z.number().min(20).max(20_000)).min(1).max(MOST_SPLITS),
      /** From low to high: one more than there are crossovers. */
      bands: z
        .array(band)
        .min(2)
        .max(MOST_SPLITS + 1),
    })
    .refine(({ hz }) => hz.every((f, i) => i === 0 || f > hz[i - 1]), 'crossovers rise')
    .refine(
      ({ hz, bands }) => bands.length === hz.length + 1,
      'there is one band more than there are crossovers',
    )
}

const inBand = z
  .array(
    unionOf((form) =>
      z.strictObject({
        id: itemId,
        kind: z.literal(form.kind),
        on: z.boolean(),
        params: form.params,
      }),
    ) as unknown as z.ZodType<BandTreatment>,
  )
  .max(MOST_IN_BAND)
export const splitParams = splitSchema(bandSchema(inBand))
export type SplitParams = z.infer<typeof splitParams>
export type SplitBand = SplitParams['bands'][number]

const inFileBand = z
  .array(
    unionOf((form) =>
      z.strictObject({
        kind: z.literal(form.kind),
        on: z.boolean().default(true),
        params: form.file.params,
      }),
    ),
  )
  .max(MOST_IN_BAND)
  .default([])
/** As it stands in chain files, where treatments have no ids. */
export const fileSplitParams = splitSchema(bandSchema(inFileBand))
export type FileSplitParams = z.infer<typeof fileSplitParams>

function unionOf<Schema extends z.core.$ZodTypeDiscriminable>(schema: (form: AnyForm) => Schema) {
  const [first, ...rest] = forms.map(schema)
  return z.discriminatedUnion('kind', [first, ...rest])
}

/** What is made ready ahead of the sound. */
export interface SplitDesign {
  readonly spec: CrossoverSpec
  readonly crossover: CrossoverDesign
  /** Of treatments in bands, by band and treatment. */
  readonly inner: Readonly<Record<string, unknown>>
}

/** A band that changes nothing. */
export function newSplitBand(): SplitBand {
  return { levelDb: 0, width: 1, solo: false, mute: false, treatments: [] }
}

/** The gain of each band: those that are muted, or stand beside one in solo, are silent. */
export function bandGains({ bands }: Pick<SplitParams, 'bands'>): number[] {
  const soloed = bands.some((b) => b.solo)
  return bands.map((b) => (b.mute || (soloed && !b.solo) ? 0 : 10 ** (b.levelDb / 20)))
}
