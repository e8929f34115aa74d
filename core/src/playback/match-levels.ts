import type { Playback } from './description'
import { PLAIN_LEVELS, type PlaybackLevels } from './playback-run'

/** It is as loud as before once it is nearer than this, in LU. */
const NEAR_LU = 0.03
const MOST_ROUNDS = 5

/**
 * Makes a playback as loud as what plays without it; its noise comes on top.
 * @param lufs loudness of what plays without it; null where that is silent.
 * @param through loudness behind it, with given levels, without its noise.
 */
export async function matchPlaybackLevels(
  playback: Pick<Playback, 'limiter' | 'noise'> | null,
  lufs: number | null,
  through: (levels: PlaybackLevels) => Promise<number | null>,
): Promise<PlaybackLevels> {
  const heard = lufs === null ? null : await through(PLAIN_LEVELS)
  if (lufs === null || heard === null) return PLAIN_LEVELS
  const { limiter = null, noise = null } = playback ?? {}
  const ceiling = limiter && 10 ** ((lufs + limiter.overLoudnessDb) / 20)
  let gainDb = lufs - heard
  const levels = (): PlaybackLevels => ({
    gain: 10 ** (gainDb / 20),
    ceiling,
    releaseMs: limiter?.releaseMs ?? PLAIN_LEVELS.releaseMs,
    noiseGain: 0,
  })
  // What the limiter holds back is made up for.
  for (let round = 0; limiter && round < MOST_ROUNDS; round++) {
    const now = await through(levels())
    if (now === null || Math.abs(lufs - now) < NEAR_LU) break
    gainDb += lufs - now
  }
  return { ...levels(), noiseGain: noise ? 10 ** ((lufs + noise.lu) / 20) : 0 }
}
