import { LEVEL_STEP, LevelSteps, readLeveller, thresholdFor } from '@sober-prism/core/dynamics'
import { PassageMeter, ProfileMeter } from '@sober-prism/core/match'
import { piecesOf } from './sound-pieces'
import type { Tasks } from './tasks'

type Progress = (share: number) => void

/** The profile of a sound over a stretch. */
export async function measureTarget(
  input: Tasks['profile']['in'],
  onProgress: Progress,
): Promise<Tasks['profile']['out']> {
  const { sampleRateHz, stretch, title } = input
  const { pieces, channels } = piecesOf(input)
  const meter = new ProfileMeter(sampleRateHz, channels)
  const seconds = (stretch.toFrame - stretch.fromFrame) / sampleRateHz
  for await (const piece of pieces) {
    meter.add(piece)
    onProgress(Math.min(1, meter.seconds / seconds))
  }
  return { profile: meter.read(title) }
}

/** The threshold with which the loudest moment of a stretch loses just so much, and what is then taken in the mean. */
export async function findThreshold(
  input: Tasks['levelling']['in'],
  onProgress: Progress,
): Promise<Tasks['levelling']['out']> {
  const { sampleRateHz, stretch, settings } = input
  const { pieces, channels } = piecesOf(input)
  const steps = new LevelSteps(sampleRateHz, channels)
  steps.setLowCut(settings.lowCutHz)
  const frames = stretch.toFrame - stretch.fromFrame
  const levels = new Float32Array(Math.ceil(frames / LEVEL_STEP))
  let count = 0
  let done = 0
  for await (const piece of pieces) {
    for (let i = 0; i < piece[0].length; i++) {
      const power = steps.add(piece, i)
      if (power >= 0) levels[count++] = power
    }
    done += piece[0].length
    onProgress((0.8 * done) / frames)
  }
  const heard = levels.subarray(0, count)
  const thresholdDb = thresholdFor(heard, settings, sampleRateHz)
  if (thresholdDb === null) return { thresholdDb, reading: null }
  return { thresholdDb, reading: readLeveller(heard, { ...settings, thresholdDb }, sampleRateHz) }
}

/** How the passage stands to the whole, and the stretch that stands nearest to it. */
export async function findPassage(
  input: Tasks['passage']['in'],
  onProgress: Progress,
): Promise<Tasks['passage']['out']> {
  const { sampleRateHz, stretch, chosen, seconds } = input
  const meter = new PassageMeter(sampleRateHz)
  const frames = stretch.toFrame - stretch.fromFrame
  let done = 0
  for await (const piece of piecesOf(input).pieces) {
    meter.add(piece)
    done += piece[0].length
    onProgress(done / frames)
  }
  const at = (frame: number) => (frame - stretch.fromFrame) / sampleRateHz
  return {
    chosen: chosen && meter.read(at(chosen.fromFrame), at(chosen.toFrame)),
    proposed: meter.propose(seconds),
  }
}
