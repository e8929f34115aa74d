import {
  type ChainImpulse,
  type ChainText,
  chainCommand,
  chainCsv,
  chainImpulse,
  chainList,
} from '@sober-prism/core/chain-export'
import { type Chain, chainOf, writeChainFile } from '@sober-prism/core/session'
import type { Answerer, Question } from './question'

/** Forms in which a chain goes to other programs. */
export type ChainForm = 'text' | 'csv' | 'ir' | 'ffmpeg' | 'sox' | 'json'

interface ChainForInput {
  readonly chain: Chain
  readonly form: ChainForm
  readonly sampleRateHz: number
}

/** What a chain is in a form for others: a text, or an impulse response. */
export type ChainFor =
  | ({ readonly kind: 'text' } & ChainText)
  | ({ readonly kind: 'impulse' } & ChainImpulse)

/** A node's chain in a form for others. */
export const chainFor: Question<
  { readonly node: string; readonly form: ChainForm },
  ChainForInput
> = {
  label: 'Writing the chain',
  keeps: 20,
  prepare({ node, form }, { session }) {
    const chain = chainOf(session, node)
    return chain && { chain, form, sampleRateHz: session.sampleRateHz }
  },
}

export const answerChainFor: Answerer<ChainForInput, ChainFor> = async ({
  chain,
  form,
  sampleRateHz,
}) => {
  if (form === 'ir') return { kind: 'impulse', ...(await chainImpulse(chain, sampleRateHz)) }
  return { kind: 'text', ...textOf(form, chain, sampleRateHz) }
}

function textOf(form: Exclude<ChainForm, 'ir'>, chain: Chain, rateHz: number): ChainText {
  switch (form) {
    case 'text':
      return chainList(chain)
    case 'csv':
      return chainCsv(chain, rateHz)
    case 'json':
      return { text: `${writeChainFile(chain.treatments)}\n`, worstDeviationDb: null, notSaid: [] }
    default:
      return chainCommand(chain, form, rateHz)
  }
}
