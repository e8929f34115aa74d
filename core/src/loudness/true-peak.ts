import { amplitudeToDb, besselI0, type Clip, samplePeak } from '../audio'

const OVERSAMPLING = 8
const TAPS_PER_PHASE = 24
const KAISER_BETA = 8

/**
 * True peak in dBTP: the largest absolute value after interpolation (BS.1770-5, annex 2). Eight times
 * oversampling by a Kaiser-windowed sinc, where the annex asks for four or more. `null` for silence.
 */
export function truePeakDbtp(clip: Clip): number | null {
  const peak = truePeakAmplitude(clip)
  return peak > 1e-10 ? amplitudeToDb(peak) : null
}

/** {@link truePeakDbtp} as an amplitude. */
export function truePeakAmplitude(clip: Clip): number {
  return clip.channels.reduce((peak, channel) => Math.max(peak, channelTruePeak(channel)), 0)
}

const phases = makePhases()

function makePhases(): readonly Float64Array[] {
  const half = TAPS_PER_PHASE / 2
  return Array.from({ length: OVERSAMPLING }, (_, p) => {
    const taps = Float64Array.from({ length: TAPS_PER_PHASE }, (_, t) => {
      const x = t - (half - 1) - p / OVERSAMPLING
      const window = besselI0(KAISER_BETA * Math.sqrt(Math.max(0, 1 - (x / half) ** 2)))
      return (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * window
    })
    const sum = taps.reduce((a, b) => a + b, 0)
    return taps.map((v) => v / sum)
  })
}

/** For each tap, the largest it is in any phase: with these weights, samples bound what lies between them. */
const bounds = Float64Array.from({ length: TAPS_PER_PHASE }, (_, t) =>
  Math.max(...phases.map((taps) => Math.abs(taps[t]))),
)
/** Bound on how far interpolation can rise above the samples around it. */
const OVERSHOOT = bounds.reduce((a, b) => a + b, 0)

const HALF = TAPS_PER_PHASE / 2
const BLOCK = 64

function channelTruePeak(channel: Float32Array): number {
  // The samples themselves are among what interpolation gives.
  let peak = samplePeak([channel])
  for (let start = 0; start < channel.length + HALF; start += BLOCK) {
    const end = Math.min(start + BLOCK, channel.length + HALF)
    // A stretch whose samples cannot reach the present peak needs no interpolation.
    const local = largest(channel, Math.max(0, start - HALF), Math.min(channel.length, end + HALF))
    if (local * OVERSHOOT > peak) peak = blockPeak(channel, start, end, peak)
  }
  return peak
}

function largest(channel: Float32Array, from: number, to: number): number {
  let most = 0
  for (let i = from; i < to; i++) {
    const a = Math.abs(channel[i])
    if (a > most) most = a
  }
  return most
}

/** The largest of `peak` and what lies between the samples `start` to `end`. */
function blockPeak(channel: Float32Array, start: number, end: number, peak: number): number {
  for (let i = start; i < end; i++) {
    const from = i - HALF + 1
    const t0 = Math.max(0, -from)
    const t1 = Math.min(TAPS_PER_PHASE, channel.length - from)
    let bound = 0
    for (let t = t0; t < t1; t++) bound += Math.abs(channel[from + t]) * bounds[t]
    if (bound <= peak) continue
    for (const taps of phases) {
      let sum = 0
      for (let t = t0; t < t1; t++) sum += channel[from + t] * taps[t]
      const a = Math.abs(sum)
      if (a > peak) peak = a
    }
  }
  return peak
}
