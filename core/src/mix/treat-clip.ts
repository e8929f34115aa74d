import { type Clip, MemorySource } from '../audio'
import { chainWith } from '../session'
import type { Treatment } from '../treatments'
import { chainPlan, designNow } from './plan'
import { ChainRun, streamRun } from './render'

/**
 * A clip through treatments, aligned with itself and as long.
 * @param key what they listen to, at the same rate and from the same start.
 */
export async function treatClip(
  clip: Clip,
  treatments: readonly Treatment[],
  key?: Clip,
): Promise<Clip> {
  const { sampleRateHz, frames } = clip
  const run = new ChainRun(
    chainPlan(chainWith(treatments), '', designNow(sampleRateHz)),
    new MemorySource(clip.channels),
    0,
    sampleRateHz,
    { fromFrame: 0, toFrame: frames },
    key ? new MemorySource(key.channels) : null,
  )
  const channels = clip.channels.map(() => new Float32Array(frames))
  let at = 0
  for await (const piece of streamRun(run)) {
    channels.forEach((c, i) => {
      c.set(piece[i], at)
    })
    at += piece[0].length
  }
  return { ...clip, channels }
}
