import { MemorySource } from '@sober-prism/core/audio'
import { designNow, Mixer, type MixPlan, withDesigns } from '@sober-prism/core/mix'
import type { NodeKind } from '../analysis/scheduler'
import type { Tools } from '../analysis/tools'
import type { Answerer } from './question'

interface LatencyInput {
  readonly plan: MixPlan
  readonly sampleRateHz: number
}

/** By how much chains of a mix make it late, in seconds. */
export const latencyNode: NodeKind<Tools & LatencyInput, readonly [], number> = {
  name: 'latency',
  version: 1,
  label: 'Measuring latency',
  keep: 'stored',
  run(_, { pool, beds: _beds, ...input }, { signal }) {
    return pool.run('latency', input, { queueSignal: signal })
  },
}

export const answerLatency: Answerer<LatencyInput, number> = ({ plan, sampleRateHz }) => {
  const mixer = new Mixer(sampleRateHz)
  // What plays is nothing to it: it asks only that something is there.
  const silence = new MemorySource([new Float32Array(1), new Float32Array(1)])
  for (const { source } of plan.nodes) if (source !== null) mixer.setAudio(source, silence)
  mixer.set(withDesigns(plan, designNow(sampleRateHz)))
  const seconds = mixer.lead / sampleRateHz
  mixer.dispose()
  return seconds
}
