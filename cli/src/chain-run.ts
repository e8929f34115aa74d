import type { AudioSource } from '@sober-prism/core/audio'
import { ChainRun, chainPlan, type Designer, designNow } from '@sober-prism/core/mix'
import { type Chain, chainWith } from '@sober-prism/core/session'
import type { Treatment } from '@sober-prism/core/treatments'
import type { AudioFile } from './audio-file'

interface ChainOptions extends Partial<Pick<Chain, 'output'>> {
  /** Where treatments are not designed as usual. */
  readonly design?: Designer
  /** What treatments with a key listen to, at the file's rate. */
  readonly key?: AudioSource | null
}

/** A whole file through treatments, aligned with itself and as long. */
export function chainRun(
  { source, frames, sampleRateHz }: Pick<AudioFile, 'source' | 'frames' | 'sampleRateHz'>,
  treatments: readonly Treatment[],
  { output, design = designNow(sampleRateHz), key = null }: ChainOptions = {},
): ChainRun {
  const chain = chainWith(treatments)
  const plan = chainPlan({ ...chain, output: output ?? chain.output }, '', design)
  return new ChainRun(plan, source, 0, sampleRateHz, { fromFrame: 0, toFrame: frames }, key)
}
