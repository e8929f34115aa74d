import * as z from 'zod'
import type { EqBand } from '../../filters'

/**
 * The controls, from low to high, with the frequencies they step through: thirds of an octave and wider, placed so that
 * neighbours hand over without a hole. The most that each gives or takes is {@link MOST_STROKE_DB}.
 */
export const STROKES = {
  weight: { type: 'low-shelf', q: 0.5, hz: [60, 100, 160, 250] },
  body: { type: 'bell', q: 0.6, hz: [200, 315, 500, 800] },
  presence: { type: 'bell', q: 0.6, hz: [1250, 2000, 3150, 5000] },
  air: { type: 'high-shelf', q: 0.5, hz: [5000, 8000, 12_500] },
} as const
export type StrokeName = keyof typeof STROKES
export const STROKE_NAMES = ['weight', 'body', 'presence', 'air'] as const
/** Gains go in whole decibels. */
export const MOST_STROKE_DB = 9

/** Cuts stack: each layer is 6 dB per octave more. */
export const STACKS = {
  low: { type: 'low-cut', hz: [20, 30, 45, 70, 105, 160] },
  high: { type: 'high-cut', hz: [4000, 6300, 10_000, 16_000] },
} as const
export const MOST_LAYERS = 3

const strokeOf = <const H extends readonly number[]>(hz: H) =>
  z.strictObject({
    hz: z.literal(hz as unknown as [H[number], ...H[number][]]),
    db: z.int().min(-MOST_STROKE_DB).max(MOST_STROKE_DB),
  })
const stackOf = <const H extends readonly number[]>(hz: H) =>
  z.strictObject({
    hz: z.literal(hz as unknown as [H[number], ...H[number][]]),
    layers: z.int().min(0).max(MOST_LAYERS),
  })

export const broadStrokesParams = z.strictObject({
  weight: strokeOf(STROKES.weight.hz),
  body: strokeOf(STROKES.body.hz),
  presence: strokeOf(STROKES.presence.hz),
  air: strokeOf(STROKES.air.hz),
  lowCut: stackOf(STACKS.low.hz),
  highCut: stackOf(STACKS.high.hz),
  polarity: z.literal([1, -1]),
  /** After the tone; nothing at 0. */
  driveDb: z.number().min(0).max(18),
  outputDb: z.number().min(-24).max(24),
})
export type BroadStrokesParams = z.infer<typeof broadStrokesParams>

/** The bands of each control that does something. */
export function strokeControls(
  params: BroadStrokesParams,
): Map<StrokeName | 'lowCut' | 'highCut', EqBand[]> {
  const found = new Map<StrokeName | 'lowCut' | 'highCut', EqBand[]>()
  for (const { id, band } of strokeBands(params)) {
    const name = STROKE_NAMES.find((n) => n === id) ?? (id.startsWith('low') ? 'lowCut' : 'highCut')
    found.set(name, [...(found.get(name) ?? []), band])
  }
  return found
}

/** The bands that the controls stand for, those at nothing left out. */
export function strokeBands(params: BroadStrokesParams): { id: string; band: EqBand }[] {
  const common = { slopeDbPerOct: 6, channel: 'stereo' } as const
  const strokes = STROKE_NAMES.flatMap((name) => {
    const { type, q } = STROKES[name]
    const { hz, db } = params[name]
    return db === 0 ? [] : [{ id: name, band: { type, hz, db, q, ...common } }]
  })
  const stacks = (['low', 'high'] as const).flatMap((end) => {
    const { hz, layers } = params[`${end}Cut`]
    const band = { type: STACKS[end].type, hz, db: 0, q: Math.SQRT1_2, ...common }
    // Layers of 6 dB, each 3 dB down at the corner: what one more does is what one less undoes.
    return Array.from({ length: layers }, (_, i) => ({ id: `${end}-cut-${i}`, band }))
  })
  return [...strokes, ...stacks]
}
