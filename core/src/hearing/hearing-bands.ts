import type { Clip } from '../audio'
import { type Band, forEachSpectrum, type StftSettings, sumIntoBands } from '../spectrum'
import { earTransferDb } from './ear'
import { FILTER_COUNT, FILTER_HZ } from './excitation'
import { bandEdgeHz } from './specific-loudness'

const WINDOW_SECONDS = 0.085

/** How digital levels are heard: a sound of `lufs` arrives at `dbSpl`. */
export interface Calibration {
  readonly lufs: number
  readonly dbSpl: number
}

export const DEFAULT_CALIBRATION: Calibration = { lufs: -23, dbSpl: 73 }

/**
 * Short-time power of a track in quarter-ERB bands, middle and sides apart: `frames × FILTER_COUNT`
 * values each. The middle is (L+R)/2 and the side (L-R)/2; values are relative to a mean square of 1 and
 * doubled, so that middle plus side is the power of both channels together, as loudness counts it.
 */
export interface HearingBands {
  readonly frames: number
  readonly secondsPerFrame: number
  readonly mid: Float32Array
  readonly side: Float32Array
}

const bands: readonly Band[] = Array.from(FILTER_HZ, (hz, i) => ({
  hz,
  fromHz: bandEdgeHz(i),
  toHz: bandEdgeHz(i + 1),
}))

/** Sees each frame's power spectrum on the way, so that one transform serves several measurements. */
export interface FrameVisitor {
  /** Middle and side of the clip; `side` null for a mono clip. */
  readonly mid: Float32Array
  readonly side: Float32Array | null
  /** First all frames of the middle, then all of the side. The array is reused. */
  visit(power: Float64Array, binHz: number, isMid: boolean, frames: number): void
}

/** Of passages longer than this, every other stretch is measured: half the time, evenly spread, tells the mean. */
const DENSE_SECONDS = 90

/** Measures a clip. A mono clip is taken as both channels carrying it at -3 dB. */
export function hearingBands(clip: Clip, visitor?: FrameVisitor): HearingBands {
  const { sampleRateHz } = clip
  const size = 2 ** Math.round(Math.log2(sampleRateHz * WINDOW_SECONDS))
  const dense = clip.frames <= DENSE_SECONDS * sampleRateHz
  const settings: StftSettings = { size, hop: dense ? size / 2 : 2 * size, window: 'hann' }
  const frames = 1 + Math.floor(Math.max(0, clip.frames - size) / settings.hop)
  const binHz = sampleRateHz / size
  const measure = (signal: Float32Array, factor: number, isMid: boolean) => {
    const out = new Float32Array(frames * FILTER_COUNT)
    const sums = new Float64Array(FILTER_COUNT)
    let frame = 0
    forEachSpectrum(signal, settings, (power) => {
      sumIntoBands(power, binHz, bands, sums)
      for (let b = 0; b < FILTER_COUNT; b++) out[frame * FILTER_COUNT + b] = sums[b] * factor
      frame++
      visitor?.visit(power, binHz, isMid, frames)
    })
    return out
  }
  const secondsPerFrame = settings.hop / sampleRateHz
  const [left, right] = clip.channels
  if (!right) {
    const side = new Float32Array(frames * FILTER_COUNT)
    return { frames, secondsPerFrame, mid: measure(left, 1, true), side }
  }
  const mid = visitor?.mid ?? midOrSide(left, right, 1)
  const side = visitor?.side ?? midOrSide(left, right, -1)
  return {
    frames,
    secondsPerFrame,
    mid: measure(mid, 2, true),
    side: measure(side, 2, false),
  }
}

/** Middle, (L + R)/2, for sign 1; side, (L - R)/2, for sign -1. */
export function midOrSide(left: Float32Array, right: Float32Array, sign: 1 | -1): Float32Array {
  const out = new Float32Array(left.length)
  for (let i = 0; i < out.length; i++) out[i] = (left[i] + sign * right[i]) / 2
  return out
}

/** Factor from band power to intensity at the cochlea, relative to 0 dB SPL, per band. */
export function cochlearGains(calibration: Calibration): Float64Array {
  // At 1 kHz, where K-weighting is neutral after its -0.691 dB, LUFS is the power of both channels in dB.
  const offsetDb = calibration.dbSpl - calibration.lufs
  return FILTER_HZ.map((hz) => 10 ** ((offsetDb + earTransferDb(hz)) / 10))
}
