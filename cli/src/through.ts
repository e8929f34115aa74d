import { existsSync } from 'node:fs'
import { resolve } from 'node:path'
import { type Clip, makeClip, resample } from '@sober-prism/core/audio'
import { DEFAULT_CALIBRATION } from '@sober-prism/core/hearing'
import { measureLoudness } from '@sober-prism/core/loudness'
import {
  makePlayback,
  matchPlaybackLevels,
  PLAYBACKS,
  type Playback,
  type PlaybackLevels,
  type PlaybackResponse,
  PlaybackRun,
  parsePlayback,
  recordedPlayback,
} from '@sober-prism/core/playback'
import { FileError } from './cli-error'
import { readClip, readText } from './files'

/** A playback by its name, or as a file brings it. */
export interface Through {
  readonly name: string
  /** As it goes into a sentence. */
  readonly where: string
  readonly response: PlaybackResponse
  /** Null for the recording of an impulse. */
  readonly playback: Playback | null
}

const LONGEST_SECONDS = 10

/**
 * A playback by its name, a description (.json) or the recording of an impulse (.wav).
 * @throws FileError
 */
export async function readThrough(cwd: string, given: string, rateHz: number): Promise<Through> {
  const made = (playback: Playback): Through => ({
    name: playback.name,
    where: playback.where,
    response: makePlayback(playback, rateHz, DEFAULT_CALIBRATION.dbSpl),
    playback,
  })
  const known = PLAYBACKS.find((p) => p.name === given)
  if (known) return made(known)
  if (!existsSync(resolve(cwd, given))) {
    const names = PLAYBACKS.map((p) => p.name).join(', ')
    throw new FileError(given, `no such file, and no playback of that name (there are ${names})`)
  }
  if (/\.json$/i.test(given)) {
    try {
      return made(parsePlayback(await readText(cwd, given)))
    } catch (error) {
      if (error instanceof RangeError) throw new FileError(given, error.message)
      throw error
    }
  }
  const recorded = await readClip(cwd, given)
  if (recorded.channels.length > 2) throw new FileError(given, 'has more than two channels')
  if (recorded.frames > LONGEST_SECONDS * recorded.sampleRateHz) {
    throw new FileError(
      given,
      `is longer than ${LONGEST_SECONDS} s: not the recording of an impulse`,
    )
  }
  if (recorded.channels.every((c) => c.every((v) => v === 0))) {
    throw new FileError(given, 'is silent')
  }
  const { channels } = resample(recorded, rateHz)
  const response = recordedPlayback(channels)
  return { name: given, where: `through ${given}`, response, playback: null }
}

/** A clip through a playback, as loud as before; as long, and in time. */
export async function playThrough(clip: Clip, { response, playback }: Through) {
  const lufsOf = (c: Clip) => measureLoudness(c).integratedLufs
  const levels = await matchPlaybackLevels(playback, lufsOf(clip), async (now) =>
    lufsOf(passed(clip, response, now)),
  )
  return { clip: passed(clip, response, levels), levels }
}

const BLOCK = 4096

function passed(clip: Clip, response: PlaybackResponse, levels: PlaybackLevels): Clip {
  const run = new PlaybackRun(response, levels, clip.sampleRateHz)
  const { latency } = run
  const [left, right = left] = clip.channels
  const sides = [left, right].map((c) => {
    const out = new Float32Array(c.length + latency)
    out.set(c)
    return out
  })
  for (let at = 0; at < sides[0].length; at += BLOCK) {
    const [a, b] = sides.map((c) => c.subarray(at, at + BLOCK))
    run.process(a, b, a.length)
  }
  run.dispose()
  const channels = sides.slice(0, clip.channels.length).map((c) => c.subarray(latency))
  return makeClip(clip.sampleRateHz, channels)
}
