import { LEVEL_STEP, LevelSteps, readLeveller, thresholdFor } from '@sober-prism/core/dynamics'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import { PassageMeter, ProfileMeter, SHORTEST_PASSAGE_SECONDS } from '@sober-prism/core/match'
import { workingsOf } from '@sober-prism/core/treatments'
import { piecesOf } from './sound-pieces'
import type { Levelled, Progress, Tasks } from './tasks'

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

/** Runs a leveller over a stretch of the sound before it. */
export async function runLeveller(
  input: Tasks['levelled']['in'],
  onProgress: Progress,
): Promise<Levelled> {
  const { sampleRateHz, stretch, params, columns } = input
  const { pieces, channels } = piecesOf(input)
  const workings = workingsOf('leveller')
  const leveller = workings.make(sampleRateHz, channels)
  leveller.set(params, workings.design(params, sampleRateHz))
  const [before, after] = [0, 1].map(() => new LoudnessMeter(sampleRateHz, channels))
  const frames = stretch.toFrame - stretch.fromFrame
  const gainsDb = new Float32Array(columns)
  const now = new Float32Array(1)
  let done = 0
  for await (const piece of pieces) {
    before.add(piece)
    const levelled = piece.map((channel) => channel.slice())
    for (let at = 0; at < piece[0].length; at += GAIN_FRAMES) {
      const count = Math.min(GAIN_FRAMES, piece[0].length - at)
      leveller.process(
        levelled.map((channel) => channel.subarray(at, at + count)),
        count,
        null,
      )
      leveller.readGains?.(now)
      const column = Math.min(columns - 1, Math.floor((columns * (done + at)) / frames))
      gainsDb[column] = Math.min(gainsDb[column], now[0])
    }
    after.add(levelled)
    done += piece[0].length
    onProgress(done / frames)
  }
  const [beforeLufs, afterLufs] = [before, after].map((m) => m.read().integratedLufs)
  return { gainsDb, beforeLufs, afterLufs }
}

/** Frames from one reading of a leveller's gain to the next. */
const GAIN_FRAMES = 512

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
    extremes: meter.extremes(Math.max(SHORTEST_PASSAGE_SECONDS, seconds / 2)),
  }
}
