import { type Clip, resample } from '@sober-prism/core/audio'
import { hearingOf, type PairHearing, pairSums } from '@sober-prism/core/findings'
import type { MaskingSums } from '@sober-prism/core/hearing'
import { readClip } from '../files'
import type { Surroundings } from '../run'
import { figure } from '../table'
import { type BITS, writeAudio } from '../write-audio'

/** What yields, and the key that it listens to, at one sample rate and from the same start. */
export interface KeyedPair {
  readonly yielding: Clip
  readonly key: Clip
  readonly sums: MaskingSums
  readonly before: PairHearing
}

export async function readPair(
  { cwd, progress }: Surroundings,
  yieldingFile: string,
  keyFile: string,
): Promise<KeyedPair> {
  const yielding = await readClip(cwd, yieldingFile)
  const key = resample(await readClip(cwd, keyFile), yielding.sampleRateHz)
  progress('listening')
  const sums = pairSums(key, yielding)
  return { yielding, key, sums, before: hearingOf(sums) }
}

/** How both are heard once the yielding one is treated. */
export function hearAfter({ key }: Pick<KeyedPair, 'key'>, treated: Clip): PairHearing {
  return hearingOf(pairSums(key, treated))
}

/** Writes a clip as a WAV file, whole or not at all. */
export async function writeClip(
  { cwd }: Surroundings,
  file: string,
  { sampleRateHz, channels, frames }: Clip,
  options: { force: boolean; bits: (typeof BITS)[keyof typeof BITS] },
): Promise<void> {
  const target = { cwd, file, sampleRateHz, channels: channels.length, frames, ...options }
  async function* pieces() {
    const PIECE = 65_536
    for (let at = 0; at < frames; at += PIECE) {
      yield channels.map((c) => c.subarray(at, Math.min(frames, at + PIECE)))
    }
  }
  await writeAudio(target, pieces())
}

/** Before and after in words. */
export function heardWords(before: PairHearing, after: PairHearing): string {
  const share = (v: number) => `${figure(100 * v, 0)} %`
  return `key heard ${share(before.keyHeard)} → ${share(after.keyHeard)}, yielding ${figure(before.yieldingSone, 2)} → ${figure(after.yieldingSone, 2)} sone\n`
}
