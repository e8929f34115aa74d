import { staticGainDb, UsualLevel } from '../../dynamics'
import { magnitudeDb } from '../../filters'
import { FILTER_COUNT, FILTER_HZ } from '../../hearing'
import { FOLLOW_KNEE_DB, type FollowBand, followFilters, type Treatment } from '../../treatments'
import type { SourceReading } from '../source/source-reading'

/** What is known of a sound from moment to moment. */
export type MomentReading = Pick<SourceReading, 'bands' | 'heard'>

/** Two band-passes of this part of a Q are together as wide as one of it, as bands that follow listen. */
const TWICE_Q = 0.644
const SILENT_POWER = 1e-12
/** Gains are told apart by so many dB. */
const STEP_DB = 0.25

/**
 * How loud a sound is where a band listens to it, in dB relative to a mean square of 1, frame by frame. The detector's own
 * time is left out: frames are longer.
 */
export function heardByBand(
  { bands, heard }: MomentReading,
  { type, hz, q }: Pick<FollowBand, 'type' | 'hz' | 'q'>,
): Float64Array {
  const weights = FILTER_HZ.map((f) => {
    if (type === 'bell') return 1 / (1 + (TWICE_Q * q * (f / hz - hz / f)) ** 2) ** 2
    const isLow = type === 'low-shelf' || type === 'low-cut'
    return 1 / (1 + (isLow ? f / hz : hz / f) ** 4)
  })
  // What is heard of two channels is their middle, whose bands hold twice its power.
  const scale = heard.side ? 0.5 : 1
  return Float64Array.from({ length: bands.frames }, (_, frame) => {
    let sum = 0
    for (let b = 0; b < FILTER_COUNT; b++) sum += weights[b] * bands.mid[frame * FILTER_COUNT + b]
    return 10 * Math.log10(scale * sum + SILENT_POWER)
  })
}

/**
 * Mean power gains, per auditory filter, of what hears the sound itself: each frame's gain by the static curve of its
 * level, counted as the frame's power counts. Bands that listen to others, or to the sides, are left out.
 */
export function selfDrawnGains(
  treatments: readonly Treatment[],
  reading: MomentReading,
  sampleRateHz: number,
): Float64Array {
  const gains = new Float64Array(FILTER_COUNT).fill(1)
  for (const treatment of treatments) {
    if (treatment.kind !== 'follow' || !treatment.on) continue
    for (const band of treatment.params.bands) {
      if (!band.on || band.listens.to !== 'itself' || band.channel === 'side') continue
      const own = gainsOf(band, reading, sampleRateHz)
      for (let b = 0; b < FILTER_COUNT; b++) gains[b] *= own[b]
    }
  }
  return gains
}

function gainsOf(band: FollowBand, reading: MomentReading, sampleRateHz: number): Float64Array {
  const { threshold, ratio, rangeDb } = band
  const { mid, side, frames, secondsPerFrame } = reading.bands
  const usual = new UsualLevel(secondsPerFrame)
  const answers = new Map<number, Float64Array>()
  const [before, after] = [new Float64Array(FILTER_COUNT), new Float64Array(FILTER_COUNT)]
  const levels = heardByBand(reading, band)
  for (let frame = 0; frame < frames; frame++) {
    const isRelative = threshold.against === 'relative'
    const thresholdDb = threshold.db + (isRelative ? (usual.next(levels[frame]) ?? 0) : 0)
    const curve = { thresholdDb, ratio, kneeDb: FOLLOW_KNEE_DB, rangeDb }
    const step = Math.round(staticGainDb(levels[frame], curve) / STEP_DB)
    let answer = answers.get(step)
    if (!answer) {
      const filters = followFilters(band, step * STEP_DB)
      answer = magnitudeDb(filters, FILTER_HZ, sampleRateHz).map((db) => 10 ** (db / 10))
      answers.set(step, answer)
    }
    for (let b = 0; b < FILTER_COUNT; b++) {
      const power = mid[frame * FILTER_COUNT + b] + side[frame * FILTER_COUNT + b]
      before[b] += power
      after[b] += power * answer[b]
    }
  }
  return after.map((power, b) => (before[b] > 0 ? power / before[b] : 1))
}
