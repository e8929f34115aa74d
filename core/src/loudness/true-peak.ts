import { amplitudeToDb, besselI0, type Clip } from '../audio'
import type { WasmHost } from '../wasm'
import { MOST_SAMPLES, PEAK_BLOCK, PeakKernel } from './peak-kernel'

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
  const meter = new TruePeakMeter(clip.channels.length)
  meter.add(clip.channels, clip.frames)
  return meter.finish()
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
 * quarter of that place, so that one of them reaches P/√2; with the quarters, within an eighth. A little is added
 * for the finite filter.
 */
const NEAR_A_PEAK = 1.46
const NEARER_A_PEAK = 1.12

/** Phases in the order in which they are looked at, and how far a peak may rise above what is seen by then. */
const GRIDS = [
  { points: [4], rise: NEAR_A_PEAK },
  { points: [2, 6], rise: NEARER_A_PEAK },
  { points: [1, 3, 5, 7], rise: 1 },
] as const

const HALF = TAPS_PER_PHASE / 2
const HALFWAY = phases[OVERSAMPLING / 2]

let kernel: PeakKernel | null = null

/** Compiles what looks between samples in this realm; without it that is done in plain code. */
export function installPeakKernel(wasm: WasmHost): void {
  kernel = new PeakKernel(wasm, phases)
}

/** What stays of a channel from one piece to the next: history, what is not known yet, part of a block. */
const MOST_HELD = 2 * TAPS_PER_PHASE + PEAK_BLOCK
/** Longest piece of a channel that is looked at in one go, in frames. */
const PIECE = MOST_SAMPLES - MOST_HELD

/** True peak of a sound that comes in blocks. */
export class TruePeakMeter {
  readonly #lines: Line[]
  #peak = 0
  #samplePeak = 0

  constructor(channels: number) {
    this.#lines = Array.from({ length: channels }, () => ({
      samples: new Float32Array(MOST_SAMPLES),
      held: 0,
      done: 0,
    }))
  }

  /** The largest sample of all that was added. */
  get samplePeak(): number {
    return this.#samplePeak
  }

  /** Takes the first `frames` samples of each channel. */
  add(channels: readonly Float32Array[], frames = channels[0].length): void {
    for (let c = 0; c < this.#lines.length; c++) {
      for (let at = 0; at < frames; at += PIECE) {
        this.#addTo(this.#lines[c], channels[c], at, Math.min(frames, at + PIECE))
      }
    }
  }

  /** The largest amplitude of all that was added, what lies behind its end included. */
  finish(): number {
    for (const { samples, held, done } of this.#lines) {
      kernel?.load(samples.subarray(0, held))
      this.#look(samples.subarray(0, held), done, held + HALF)
    }
    return this.#peak
  }

  #addTo(line: Line, channel: Float32Array, from: number, to: number): void {
    const { samples } = line
    const fresh = channel.subarray(from, to)
    samples.set(fresh, line.held)
    line.held += to - from
    kernel?.load(samples.subarray(0, line.held))
    // The samples themselves are among what interpolation gives.
    const most = kernel?.largest(line.held - fresh.length, line.held)
    this.#samplePeak = Math.max(this.#samplePeak, most ?? largest(fresh, 0, fresh.length))
    this.#peak = Math.max(this.#peak, this.#samplePeak)
    // Whole blocks, as far as all samples are known that interpolation asks for.
    const blocks = Math.floor((line.held - HALF - line.done) / PEAK_BLOCK)
    if (blocks <= 0) return
    const until = line.done + blocks * PEAK_BLOCK
    this.#look(samples.subarray(0, line.held), line.done, until)
    const drop = Math.max(0, until - TAPS_PER_PHASE)
    samples.copyWithin(0, drop, line.held)
    line.held -= drop
    line.done = until - drop
  }

  /** Looks between the samples `from` to `to` of a stretch, beyond whose ends there is silence. */
  #look(samples: Float32Array, from: number, to: number): void {
    for (let start = from; start < to; start += PEAK_BLOCK) {
      const end = Math.min(start + PEAK_BLOCK, to)
      // A stretch whose samples cannot reach the present peak needs no interpolation.
      const low = Math.max(0, start - HALF)
      const high = Math.min(samples.length, end + HALF)
      const local = kernel ? kernel.largest(low, high) : largest(samples, low, high)
      if (local * OVERSHOOT <= this.#peak) continue
      if (kernel) this.#lookInKernel(kernel, start, end, local)
      else this.#peak = blockPeak(samples, start, end, this.#peak)
    }
  }

  #lookInKernel(made: PeakKernel, start: number, end: number, local: number): void {
    // Points between samples ever nearer to each other, until none of the rest can reach the present peak.
    let seen = local
    for (const { points, rise } of GRIDS) {
      for (const p of points) seen = Math.max(seen, made.peak(p, start, end))
      this.#peak = Math.max(this.#peak, seen)
      if (seen * rise <= this.#peak) return
    }
  }
}

/** The end of a channel as far as it is still needed; `done` is where looking goes on. */
interface Line {
  readonly samples: Float32Array
  held: number
  done: number
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
