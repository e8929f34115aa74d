import type { Clip } from '../audio'
import { KFilter } from './k-weighting'

const STEP_SECONDS = 0.1 // BS.1770-5: 400 ms blocks with 75 % overlap
const MOMENTARY_STEPS = 4 // EBU Tech 3341: 400 ms
const SHORT_TERM_STEPS = 30 // EBU Tech 3341: 3 s
const GATE_ABSOLUTE_LUFS = -70 // BS.1770-5, annex 1
const GATE_RELATIVE_LU = -10 // BS.1770-5, annex 1
const RANGE_GATE_LU = -20 // EBU Tech 3342
const RANGE_LOW = 0.1 // EBU Tech 3342: 10th to 95th percentile
const RANGE_HIGH = 0.95

/** What a loudness measurement gives; `null` where a value is undefined, as for silence. */
export interface LoudnessReading {
  readonly integratedLufs: number | null
  readonly loudnessRangeLu: number | null
  readonly maxMomentaryLufs: number | null
  readonly maxShortTermLufs: number | null
}

/**
 * Running loudness meter after ITU-R BS.1770-5 and EBU Tech 3341/3342. Feed blocks of one or two
 * channels with {@link LoudnessMeter.add}; memory grows by one number per 100 ms. A single channel
 * counts once, as in BS.1770.
 */
export class LoudnessMeter {
  readonly #filter: KFilter
  readonly #stepFrames: number
  /** K-weighted mean square, summed over channels, of each finished 100 ms step. */
  readonly #steps: number[] = []
  #filled = 0
  #sum = 0

  constructor(rateHz: number, channels: number) {
    this.#filter = new KFilter(rateHz, channels)
    this.#stepFrames = stepFrames(rateHz)
  }

  /** Takes the first `frames` samples of each channel. */
  add(channels: readonly Float32Array[], frames = channels[0].length): void {
    let at = 0
    while (at < frames) {
      const end = Math.min(frames, at + this.#stepFrames - this.#filled)
      this.#sum += this.#filter.energy(channels, at, end)
      this.#filled += end - at
      at = end
      if (this.#filled === this.#stepFrames) {
        this.#steps.push(this.#sum / this.#stepFrames)
        this.#filled = 0
        this.#sum = 0
      }
    }
  }

  /** Loudness of the last 400 ms, `null` before that or in silence. */
  get momentaryLufs(): number | null {
    return this.#last(MOMENTARY_STEPS)
  }

  /** Loudness of the last 3 s, `null` before that or in silence. */
  get shortTermLufs(): number | null {
    return this.#last(SHORT_TERM_STEPS)
  }

  read(): LoudnessReading {
    return readLoudnessSteps(this.#steps)
  }

  #last(steps: number): number | null {
    if (this.#steps.length < steps) return null
    let sum = 0
    for (let i = this.#steps.length - steps; i < this.#steps.length; i++) sum += this.#steps[i]
    return toLufs(sum / steps)
  }
}

/** Frames of a loudness step, 100 ms. */
export function stepFrames(rateHz: number): number {
  return Math.round(rateHz * STEP_SECONDS)
}

/**
 * K-weighted mean squares of whole steps of a clip, to be put in a row with those of its neighbours.
 * @param fromFrame where the first step begins; the filters hear what comes before.
 */
export function loudnessSteps(clip: Clip, fromFrame: number, toFrame: number): Float64Array {
  const length = stepFrames(clip.sampleRateHz)
  const steps = new Float64Array(Math.floor((toFrame - fromFrame) / length))
  const filter = new KFilter(clip.sampleRateHz, clip.channels.length)
  filter.energy(clip.channels, 0, fromFrame)
  for (let s = 0; s < steps.length; s++) {
    const from = fromFrame + s * length
    steps[s] = filter.energy(clip.channels, from, from + length) / length
  }
  return steps
}

/** Loudness figures of steps of 100 ms in a row. */
export function readLoudnessSteps(steps: readonly number[]): LoudnessReading {
  const momentary = slidingMeans(steps, MOMENTARY_STEPS)
  const shortTerm = slidingMeans(steps, SHORT_TERM_STEPS)
  return {
    integratedLufs: gatedLoudness(momentary),
    loudnessRangeLu: loudnessRange(shortTerm),
    maxMomentaryLufs: toLufs(maximum(momentary)),
    maxShortTermLufs: toLufs(maximum(shortTerm)),
  }
}

/** All loudness figures of a clip. */
export function measureLoudness(clip: Clip): LoudnessReading {
  const meter = new LoudnessMeter(clip.sampleRateHz, clip.channels.length)
  meter.add(clip.channels, clip.frames)
  return meter.read()
}

function toLufs(meanSquare: number): number | null {
  return meanSquare > 1e-15 ? -0.691 + 10 * Math.log10(meanSquare) : null
}

function toMeanSquare(lufs: number): number {
  return 10 ** ((lufs + 0.691) / 10)
}

function slidingMeans(steps: readonly number[], width: number): number[] {
  const means: number[] = []
  for (let i = width; i <= steps.length; i++) {
    let sum = 0
    for (let k = i - width; k < i; k++) sum += steps[k]
    means.push(sum / width)
  }
  return means
}

function maximum(values: readonly number[]): number {
  return values.reduce((a, b) => Math.max(a, b), 0)
}

function mean(values: readonly number[]): number {
  return values.reduce((a, b) => a + b, 0) / values.length
}

/** BS.1770-5, annex 1, eq. 5 to 7: absolute gate, then a gate relative to what passed it. */
function gatedLoudness(blocks: readonly number[]): number | null {
  const above = blocks.filter((v) => v > toMeanSquare(GATE_ABSOLUTE_LUFS))
  if (above.length === 0) return null
  const relative = mean(above) * 10 ** (GATE_RELATIVE_LU / 10)
  return toLufs(mean(above.filter((v) => v > relative)))
}

/** EBU Tech 3342: 10th to 95th percentile of gated short-term loudness. */
function loudnessRange(shortTerm: readonly number[]): number | null {
  const above = shortTerm.filter((v) => v >= toMeanSquare(GATE_ABSOLUTE_LUFS))
  if (above.length === 0) return null
  const gate = mean(above) * 10 ** (RANGE_GATE_LU / 10)
  const kept = above.filter((v) => v >= gate).sort((a, b) => a - b)
  const at = (share: number) => kept[Math.round((kept.length - 1) * share)]
  return 10 * Math.log10(at(RANGE_HIGH) / at(RANGE_LOW))
}
