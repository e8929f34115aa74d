import { align } from './align'
import { broadStrokes } from './broad-strokes'
import { drawnCurve } from './drawn-curve'
import { drive } from './drive'
import { duck } from './duck'
import { equaliser } from './equaliser'
import { follow } from './follow'
import type { AnyForm } from './kind'
import { leveller } from './leveller'
import { lowMiddle } from './low-middle'
import { match } from './match'
import { split } from './split'

/** All kinds of treatment. A new kind is one line here, one in `workings.ts`, its folder, and its editor in `app/`. */
export const TREATMENT_KINDS = {
  equaliser,
  align,
  'low-middle': lowMiddle,
  'drawn-curve': drawnCurve,
  follow,
  duck,
  match,
  'broad-strokes': broadStrokes,
  drive,
  leveller,
  split,
} as const

export type KindName = keyof typeof TREATMENT_KINDS
export type ParamsOf<K extends KindName> = ReturnType<(typeof TREATMENT_KINDS)[K]['defaults']>

/** Kinds by name; tests bring kinds of their own. */
export type KindRegistry = Readonly<Record<string, AnyForm>>

/** A kind with its types taken off, for those who go by the registry. */
export function kindOf(
  name: string,
  kinds: KindRegistry = TREATMENT_KINDS as KindRegistry,
): AnyForm {
  const kind = Object.hasOwn(kinds, name) ? kinds[name] : undefined
  if (!kind) throw new RangeError(`There is no treatment of the kind "${name}".`)
  return kind
}

/** The values of a treatment as they are rendered, without what is for listening only. */
export function asRendered(kind: string, params: unknown): unknown {
  return Object.hasOwn(TREATMENT_KINDS, kind) ? (kindOf(kind).rendered?.(params) ?? params) : params
}
