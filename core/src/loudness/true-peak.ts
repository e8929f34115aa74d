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

function channelTruePeak(channel: Float32Array): number {
  const half = TAPS_PER_PHASE / 2
  // The samples themselves are among what interpolation gives.
  let peak = samplePeak([channel])
  const block = 64
  for (let start = 0; start < channel.length + half; start += block) {
    const end = Math.min(start + block, channel.length + half)
    // A stretch whose samples cannot reach the present peak needs no interpolation.
    let local = 0
    const to = Math.min(channel.length, end + half)
    for (let i = Math.max(0, start - half); i < to; i++) {
      const a = Math.abs(channel[i])
      if (a > local) local = a
    }
    if (local * OVERSHOOT <= peak) continue
    for (let i = start; i < end; i++) {
      const from = i - half + 1
      const t0 = Math.max(0, -from)
      const t1 = Math.min(TAPS_PER_PHASE, channel.length - from)
      for (const taps of phases) {
        let sum = 0
        for (let t = t0; t < t1; t++) sum += channel[from + t] * taps[t]
        const a = Math.abs(sum)
        if (a > peak) peak = a
      }
    }
  }
  return peak
}
