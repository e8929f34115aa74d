import { workingsOf } from '@sober-prism/core/treatments'
import type { Answerer } from './question'

interface DesignInput {
  readonly kind: string
  readonly params: unknown
  readonly sampleRateHz: number
}

/** What a heavy treatment needs ready-made. */
export const answerDesign: Answerer<DesignInput, { readonly design: unknown }> = ({
  kind,
  params,
  sampleRateHz,
}) => ({ design: workingsOf(kind).design(params, sampleRateHz) })
