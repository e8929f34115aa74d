import type { Clip } from '../audio'
import { type Band, forEachSpectrum, sumIntoBands } from '../spectrum'
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

/** Measures a clip. A mono clip is taken as both channels carrying it at -3 dB. */
export function hearingBands(clip: Clip): HearingBands {
  const size = 2 ** Math.round(Math.log2(clip.sampleRateHz * WINDOW_SECONDS))
  const settings = { size, hop: size / 2, window: 'hann' } as const
  const frames = 1 + Math.floor(Math.max(0, clip.frames - size) / settings.hop)
  const measure = (signal: Float32Array, factor: number) => {
    const out = new Float32Array(frames * FILTER_COUNT)
    const sums = new Float64Array(FILTER_COUNT)
    let frame = 0
    forEachSpectrum(signal, settings, (power) => {
      sumIntoBands(power, clip.sampleRateHz / size, bands, sums)
      for (let b = 0; b < FILTER_COUNT; b++) out[frame * FILTER_COUNT + b] = sums[b] * factor
      frame++
    })
    return out
  }
  const secondsPerFrame = settings.hop / clip.sampleRateHz
  const [left, right] = clip.channels
  if (!right) {
    return {
      frames,
      secondsPerFrame,
      mid: measure(left, 1),
      side: new Float32Array(frames * FILTER_COUNT),
    }
  }
  const mid = new Float32Array(clip.frames)
  const side = new Float32Array(clip.frames)
  for (let i = 0; i < clip.frames; i++) {
    mid[i] = (left[i] + right[i]) / 2
    side[i] = (left[i] - right[i]) / 2
  }
  return { frames, secondsPerFrame, mid: measure(mid, 2), side: measure(side, 2) }
}

/** Factor from band power to intensity at the cochlea, relative to 0 dB SPL, per band. */
export function cochlearGains(calibration: Calibration): Float64Array {
  // At 1 kHz, where K-weighting is neutral after its -0.691 dB, LUFS is the power of both channels in dB.
  const offsetDb = calibration.dbSpl - calibration.lufs
  return FILTER_HZ.map((hz) => 10 ** ((offsetDb + earTransferDb(hz)) / 10))
}
