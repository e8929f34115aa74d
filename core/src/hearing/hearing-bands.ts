import type { Clip } from '../audio'
import { type Band, powerSpectrum, sumIntoBands } from '../spectrum'
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
 * Of long passages only a part is measured, in rows of {@link FRAMES_IN_A_ROW} frames.
 */
export interface HearingBands {
  readonly frames: number
  /** Time for which a frame stands: more than from one to the next, where only a part is measured. */
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

/** Of passages longer than this, a part of the time tells the mean. */
const DENSE_SECONDS = 90
/** Then frames in a row are measured, half a second, and three times as many left out. */
export const FRAMES_IN_A_ROW = 12
const LEFT_OUT = 3

/** Where frames of a clip begin. */
function frameStarts(frames: number, size: number, isDense: boolean): number[] {
  const hop = size / 2
  const all = 1 + Math.floor(Math.max(0, frames - size) / hop)
  const starts: number[] = []
  const period = FRAMES_IN_A_ROW * (1 + LEFT_OUT)
  for (let f = 0; f < all; f++) {
    if (isDense || f % period < FRAMES_IN_A_ROW) starts.push(f * hop)
  }
  return starts
}

/**
 * Measures a clip. A mono clip is taken as both channels carrying it at -3 dB.
 * @param longest frames of the longest clip it is compared with: all of them are measured at the same times.
 */
export function hearingBands(
  clip: Clip,
  visitor?: FrameVisitor,
  longest = clip.frames,
): HearingBands {
  const { sampleRateHz } = clip
  const size = 2 ** Math.round(Math.log2(sampleRateHz * WINDOW_SECONDS))
  const isDense = longest <= DENSE_SECONDS * sampleRateHz
  const starts = frameStarts(clip.frames, size, isDense)
  const frames = starts.length
  const binHz = sampleRateHz / size
  const measure = (signal: Float32Array, factor: number, isMid: boolean) => {
    const out = new Float32Array(frames * FILTER_COUNT)
    const sums = new Float64Array(FILTER_COUNT)
    const spectrum = powerSpectrum({ size, window: 'hann' })
    // What is shorter than one frame is filled up with silence.
    const padded = signal.length >= size ? signal : new Float32Array(size)
    if (padded !== signal) padded.set(signal)
    for (let frame = 0; frame < frames; frame++) {
      const power = spectrum(padded, starts[frame])
      sumIntoBands(power, binHz, bands, sums)
      for (let b = 0; b < FILTER_COUNT; b++) out[frame * FILTER_COUNT + b] = sums[b] * factor
      visitor?.visit(power, binHz, isMid, frames)
    }
    return out
  }
  const secondsPerFrame = ((isDense ? 1 : 1 + LEFT_OUT) * size) / 2 / sampleRateHz
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
