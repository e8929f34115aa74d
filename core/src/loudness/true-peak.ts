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

/** Bound on how far interpolation can rise above the samples around it: the largest sum of |tap|. */
const OVERSHOOT = Math.max(...phases.map((taps) => taps.reduce((a, b) => a + Math.abs(b), 0)))

/**
 * Where a band-limited signal has its largest value P, it is at least P cos(π d) at a distance of d
 * samples (Duffin and Schaeffer 1938). The samples and the points half-way between them lie within a
 * quarter of that place, so that one of them reaches P/√2; a little is added for the finite filter.
 */
const NEAR_A_PEAK = 1.46

const HALF = TAPS_PER_PHASE / 2
const HALFWAY = phases[OVERSAMPLING / 2]
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
    const here = i < channel.length ? Math.abs(channel[i]) : 0
    const next = i + 1 < channel.length ? Math.abs(channel[i + 1]) : 0
    const between = Math.abs(interpolated(channel, from, HALFWAY))
    if (Math.max(here, next, between) * NEAR_A_PEAK <= peak) continue
    for (const taps of phases) peak = Math.max(peak, Math.abs(interpolated(channel, from, taps)))
  }
  return peak
}

function interpolated(channel: Float32Array, from: number, taps: Float64Array): number {
  const t0 = Math.max(0, -from)
  const t1 = Math.min(TAPS_PER_PHASE, channel.length - from)
  let sum = 0
  for (let t = t0; t < t1; t++) sum += channel[from + t] * taps[t]
  return sum
}
