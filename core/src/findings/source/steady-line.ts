import { makeWindow } from '../../spectrum'

/** A line at a frequency that goes on evenly through a sound. */
export interface SteadyLine {
  /** How far it stands above what the same look finds at frequencies beside it, in dB. */
  readonly heightDb: number
  /** Its level, in dB relative to a mean square of one. */
  readonly levelDb: number
}

/** Windows are short, so that the gaps between syllables count for what they are. */
const WINDOW_SECONDS = 0.17
/** Frequencies at which what is heard at the same time is read, on both sides. */
const BESIDE_HZ = [12, 18, 24]
/** The same look beside the line, where no line is. */
const DECOYS_HZ = [1.3, 2.2, 3.1]
/** A frequency may be off by so much, tried in such steps; in Hz. */
const [MOST_OFF_HZ, OFF_STEP_HZ] = [0.06, 0.01]
const ROUNDS = 6
const SILENCE = 1e-14

/**
 * The amplitude that the moments of a sound agree on at one frequency, phase and all. Each moment counts by how soft
 * it is around that frequency, and by how near it is to what the others say (iteratively reweighted least squares with
 * Cauchy's weights), so that a line far under a voice is read from the gaps in it.
 * @param stretches of one rate, each by itself.
 */
export function readSteadyLine(
  stretches: readonly Float32Array[],
  rateHz: number,
  hz: number,
): SteadyLine {
  const size = 2 * Math.round((rateHz * WINDOW_SECONDS) / 2)
  const window = makeWindow('hann', size)
  const spectra = (at: number) =>
    stretches.map((signal) => demodulate(signal, at / rateHz, window, size / 2))
  const look = (at: number) => agreed(spectra(at), noiseAround(spectra, at), size / 2 / rateHz)
  const line = look(hz)
  const decoys = DECOYS_HZ.flatMap((d) => [look(hz - d), look(hz + d)])
  const most = decoys.reduce((score, decoy) => Math.max(score, decoy.score), SILENCE)
  return {
    heightDb: 10 * Math.log10((line.score + SILENCE) / most),
    levelDb: 10 * Math.log10(line.power / 2 + 1e-30),
  }
}

/** Power in each moment of what is heard around a frequency. */
function noiseAround(spectra: (hz: number) => Phasors[], hz: number): Float64Array[] {
  const beside = BESIDE_HZ.flatMap((d) => [hz - d, hz + d]).filter((at) => at > 0)
  const noise: Float64Array[] = []
  for (const at of beside) {
    spectra(at).forEach(({ re, im }, s) => {
      noise[s] ??= new Float64Array(re.length).fill(SILENCE)
      re.forEach((x, f) => {
        noise[s][f] += (x * x + im[f] * im[f]) / beside.length
      })
    })
  }
  return noise
}

interface Phasors {
  readonly re: Float64Array
  readonly im: Float64Array
}

/** Amplitude and phase of a frequency, in cycles per sample, in windows half over each other. */
function demodulate(
  signal: Float32Array,
  cycles: number,
  window: Float64Array | readonly number[],
  hop: number,
): Phasors {
  const size = window.length
  let sum = 0
  for (let i = 0; i < size; i++) sum += window[i]
  const frames = Math.max(0, 1 + Math.floor((signal.length - size) / hop))
  const [re, im] = [new Float64Array(frames), new Float64Array(frames)]
  const [cos, sin] = [new Float64Array(size), new Float64Array(size)]
  for (let i = 0; i < size; i++) {
    const phase = 2 * Math.PI * cycles * i
    cos[i] = (2 * window[i] * Math.cos(phase)) / sum
    sin[i] = (-2 * window[i] * Math.sin(phase)) / sum
  }
  for (let f = 0; f < frames; f++) {
    let [a, b] = [0, 0]
    for (let i = 0, at = f * hop; i < size; i++, at++) {
      a += signal[at] * cos[i]
      b += signal[at] * sin[i]
    }
    const turns = cycles * f * hop
    const phase = -2 * Math.PI * (turns - Math.floor(turns))
    const [c, s] = [Math.cos(phase), Math.sin(phase)]
    re[f] = a * c - b * s
    im[f] = a * s + b * c
  }
  return { re, im }
}

/** What the moments agree on at the frequency near which they agree most: the squared amplitude, and how surely. */
function agreed(
  spectra: readonly Phasors[],
  noise: readonly Float64Array[],
  hopSeconds: number,
): { score: number; power: number } {
  let best = { score: 0, power: 0 }
  for (let off = -MOST_OFF_HZ; off <= MOST_OFF_HZ; off += OFF_STEP_HZ) {
    let [score, weights, weighted] = [0, 0, 0]
    spectra.forEach((phasors, s) => {
      const { power, weight } = amplitude(phasors, noise[s], off * hopSeconds)
      score += power * weight
      weights += weight
      weighted += power * weight
    })
    if (score > best.score) best = { score, power: weights > 0 ? weighted / weights : 0 }
  }
  return best
}

function amplitude({ re, im }: Phasors, noise: Float64Array, cyclesPerHop: number) {
  const frames = re.length
  const [x, y] = [new Float64Array(frames), new Float64Array(frames)]
  for (let f = 0; f < frames; f++) {
    const phase = -2 * Math.PI * cyclesPerHop * f
    const [c, s] = [Math.cos(phase), Math.sin(phase)]
    x[f] = re[f] * c - im[f] * s
    y[f] = re[f] * s + im[f] * c
  }
  let [a, b, weight] = [0, 0, 0]
  for (let round = 0; round <= ROUNDS; round++) {
    let [sumX, sumY, sum] = [0, 0, 0]
    for (let f = 0; f < frames; f++) {
      const beside = round === 0 ? 0 : (x[f] - a) ** 2 + (y[f] - b) ** 2
      const w = 1 / (noise[f] + beside)
      sumX += w * x[f]
      sumY += w * y[f]
      sum += w
    }
    if (sum === 0) break
    a = sumX / sum
    b = sumY / sum
    weight = sum
  }
  return { power: a * a + b * b, weight }
}
