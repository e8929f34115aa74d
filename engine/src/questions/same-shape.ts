import type { EqBand } from '@sober-prism/core/filters'
import { type SameShape, type ShapeWay, sameShape } from '@sober-prism/core/match'
import type { Answerer, Question } from './question'

interface ShapeInput {
  readonly bands: readonly EqBand[]
  readonly way: ShapeWay
}

/** The shape of an equaliser by cuts or by boosts alone. */
export const shape: Question<ShapeInput, ShapeInput> = {
  label: 'Fitting the same shape',
  keeps: 20,
  prepare: (input) => input,
}

/** Null where it cannot be had. */
export const answerShape: Answerer<ShapeInput, { readonly shape: SameShape | null }> = ({
  bands,
  way,
}) => ({ shape: sameShape(bands, way) })
