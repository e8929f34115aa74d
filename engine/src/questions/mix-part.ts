import type { FrameRange } from '@sober-prism/core/audio'
import {
  joinMixParts,
  type MixPart,
  type MixPartReading,
  type MixReading,
  mixParts,
  readMixPart,
} from '@sober-prism/core/findings'
import {
  designNow,
  isPlain,
  type MixBed,
  type MixPlan,
  type MixSound,
  recordingsOfChange,
  renderOverBed,
  withDesigns,
} from '@sober-prism/core/mix'
import type { NodeKind } from '../analysis/scheduler'
import type { Tools } from '../analysis/tools'
import { isCancel } from '../engine-error'
import { clipOf, sourcesOf } from './open-input'
import type { Answerer, RecordingMap, SoundInput } from './question'

/** Tenths of a second by which parts of the mix overlap: filters of the mix's own chain reach far. */
const MARGIN_STEPS = { plain: 2, treated: 10 } as const

/** The whole mix over a stretch. */
export interface MixInput extends SoundInput {
  readonly sound: MixSound
  /** What besides the plan the beds of its parts depend on. */
  readonly bedKey: string
}

/** The beds that a mix is rendered over. */
export function mixBeds({ sound, stretch: { fromFrame, toFrame }, bedKey }: MixInput) {
  const { nodes } = sound.plan
  const margin = isPlain(nodes[nodes.length - 1]) ? MARGIN_STEPS.plain : MARGIN_STEPS.treated
  const parts = mixParts(fromFrame, toFrame, sound.sampleRateHz, margin)
  return { key: `${bedKey} ${margin}`, parts, frames: toFrame - fromFrame }
}

/** The mix, rendered and measured in parts by whichever worker is free. */
export const mixNode: NodeKind<Tools & MixInput, readonly [], MixReading> = {
  name: 'mix',
  version: 8,
  label: 'Measuring tracks and mix',
  keep: 'stored',
  async run(_, { pool, beds, ...mix }, { signal, onProgress }) {
    const { sound, recordings } = mix
    const { key, parts, frames } = mixBeds(mix)
    let done = 0
    const readings = await Promise.all(
      parts.map(async (part) => {
        const input = { sound, recordings, part, frames }
        const reading = await beds
          // What broke off may have left the bed half-way: it is not tried again over that.
          .use(key, part, frames, sound.plan, (bed) =>
            pool.run('mixPart', { ...input, bed }, { queueSignal: signal, retry: false }),
          )
          .catch((error: unknown) => {
            if (isCancel(error)) throw error
            return pool.run('mixPart', { ...input, bed: null }, { queueSignal: signal })
          })
        onProgress(++done / parts.length)
        return reading
      }),
    )
    return joinMixParts(readings, sound.sampleRateHz)
  },
}

interface MixPartInput {
  readonly sound: MixSound
  readonly recordings: RecordingMap
  readonly part: MixPart
  /** Of the whole mix. */
  readonly frames: number
  /** It is brought up to date. */
  readonly bed: MixBed | null
}

export const answerMixPart: Answerer<MixPartInput, MixPartReading> = async (input) => {
  const { part, frames, bed } = input
  const stretch = { fromFrame: part.heardFrom, toFrame: part.heardTo }
  const clip = bed
    ? await overBed({ ...input, stretch }, bed)
    : await clipOf({ sound: input.sound, recordings: input.recordings, stretch })
  return readMixPart(clip, part, frames)
}

/** Renders a stretch over a bed. All of the audio of what changed is at hand for it: a stretch is short. */
async function overBed(
  { sound, recordings, stretch }: SoundInput & { readonly sound: MixSound },
  kept: MixBed,
) {
  const { sampleRateHz } = sound
  const designed = (plan: MixPlan) => withDesigns(plan, designNow(sampleRateHz))
  const plan = designed(sound.plan)
  // What is taken out of the bed needs its designs as well.
  const bed = { ...kept, plan: kept.plan && designed(kept.plan) }
  const sources = sourcesOf(recordings)
  const changed = recordingsOfChange(bed, plan)
  const { fromFrame, toFrame } = stretch
  const margin = sampleRateHz
  const ranges = new Map<string, FrameRange[]>()
  for (const { source, offsetFrames } of [...plan.nodes, ...(bed.plan?.nodes ?? [])]) {
    if (source === null || !changed.has(source)) continue
    const range = {
      fromFrame: fromFrame - margin - offsetFrames,
      toFrame: toFrame + margin - offsetFrames,
    }
    ranges.set(source, [...(ranges.get(source) ?? []), range])
  }
  for (const [hash, wanted] of ranges) await sources.get(hash)?.prefetch(wanted)
  return renderOverBed(plan, sources, sampleRateHz, stretch, bed)
}
