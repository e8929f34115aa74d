import { type Clip, seededRandom, splitStereo } from '../audio'
import { type Band, BandSums, powerSpectrum } from '../spectrum'
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
export type FrameVisitor = (power: Float64Array, binHz: number, isMid: boolean) => void

/** Of passages with more frames than this (30 s), so many tell the mean. */
const MOST_FRAMES = 720
/** Then frames in a row are measured, half a second, one row of each of equal parts of the passage. */
export const FRAMES_IN_A_ROW = 12
const SEED = 90

/** Where frames of a recording begin; rows of a long one lie at random in their parts, so that they lock to no tempo. */
function frameStarts(frames: number, longest: number, size: number): number[] {
  const hop = size / 2
  const count = (length: number) => 1 + Math.floor(Math.max(0, length - size) / hop)
  const all = count(frames)
  const most = count(longest)
  if (most <= MOST_FRAMES) return Array.from({ length: all }, (_, f) => f * hop)
  const random = seededRandom(SEED)
  const rows = Math.floor(MOST_FRAMES / FRAMES_IN_A_ROW)
  const starts: number[] = []
  for (let r = 0; r < rows; r++) {
    const [from, to] = [Math.floor((r * most) / rows), Math.floor(((r + 1) * most) / rows)]
    const first = from + Math.floor(random() * (to - from - FRAMES_IN_A_ROW + 1))
    for (let f = first; f < first + FRAMES_IN_A_ROW && f < all; f++) starts.push(f * hop)
  }
  return starts.length > 0 ? starts : [0]
}

/** How a recording is cut into frames. */
export interface HearingLayout {
  readonly sampleRateHz: number
  readonly channels: number
  /** Length of the recording in frames of audio. */
  readonly length: number
  /** Length of the longest one it is compared with: all of them are measured at the same times. */
  readonly longest: number
}

/** Measures a recording that comes in pieces, in order. A mono one is taken as both channels at -3 dB. */
export class HearingMeter {
  readonly frames: number
  readonly #size: number
  readonly #starts: readonly number[]
  readonly #binHz: number
  readonly #secondsPerFrame: number
  readonly #lines: SignalLine[]
  readonly #sums = new Float64Array(FILTER_COUNT)
  readonly #bandSums: BandSums
  readonly #spectrum: (signal: Float32Array, start?: number) => Float64Array
  readonly #scratch: Float32Array
  #frame = 0

  constructor(
    { sampleRateHz, channels, length, longest }: HearingLayout,
    private readonly visit?: FrameVisitor,
  ) {
    this.#size = 2 ** Math.round(Math.log2(sampleRateHz * WINDOW_SECONDS))
    this.#starts = frameStarts(length, longest, this.#size)
    this.frames = this.#starts.length
    this.#binHz = sampleRateHz / this.#size
    const hops = (2 * Math.max(longest, this.#size)) / this.#size
    this.#secondsPerFrame = (Math.max(1, hops / MOST_FRAMES) * this.#size) / 2 / sampleRateHz
    this.#spectrum = powerSpectrum({ size: this.#size, window: 'hann' })
    this.#scratch = new Float32Array(this.#size)
    this.#bandSums = new BandSums(bands, this.#binHz, this.#size / 2 + 1)
    const line = (isMid: boolean): SignalLine => ({
      isMid,
      levels: new Float32Array(this.frames * FILTER_COUNT),
      held: new Float32Array(this.#size),
    })
    this.#lines = channels === 1 ? [line(true)] : [line(true), line(false)]
    this.#factor = channels === 1 ? 1 : 2
  }

  readonly #factor: number
  /** Where the held samples begin in the recording, and how many there are. */
  #from = 0
  #count = 0

  /** Takes the next piece. @param signals middle, and the sides where there are two channels. */
  add(signals: readonly Float32Array[]): void {
    const length = signals[0].length
    for (let at = 0; at < length; ) {
      const start = this.#starts[this.#frame]
      if (start === undefined) return
      if (this.#from + this.#count < start) {
        // Nothing is asked of what comes before the next frame.
        const skipped = Math.min(length - at, start - this.#from - this.#count)
        this.#from += this.#count + skipped
        this.#count = 0
        at += skipped
        continue
      }
      if (this.#count === 0 && length - at >= this.#size) {
        this.#measure(signals, at)
        at += this.#advance()
        continue
      }
      const taken = Math.min(length - at, this.#size - this.#count)
      this.#lines.forEach(({ held }, i) => {
        held.set(signals[i].subarray(at, at + taken), this.#count)
      })
      this.#count += taken
      at += taken
      if (this.#count < this.#size) return
      this.#measure(
        this.#lines.map((l) => l.held),
        0,
      )
      const step = this.#advance()
      const kept = Math.max(0, this.#size - step)
      for (const { held } of this.#lines) held.copyWithin(0, step)
      this.#count = kept
    }
  }

  /** Goes on to the next frame. @returns frames of audio that are not needed any more. */
  #advance(): number {
    const start = this.#starts[this.#frame]
    this.#frame++
    const next = this.#starts[this.#frame] ?? start + this.#size
    const step = Math.min(this.#size, next - start)
    this.#from += step
    return step
  }

  #measure(signals: readonly Float32Array[], at: number): void {
    const row = this.#frame * FILTER_COUNT
    this.#lines.forEach(({ isMid, levels }, i) => {
      const power = this.#spectrum(signals[i], at)
      this.#bandSums.take(power, this.#sums)
      for (let b = 0; b < FILTER_COUNT; b++) levels[row + b] = this.#sums[b] * this.#factor
      this.visit?.(power, this.#binHz, isMid)
    })
  }

  /** What was measured. A recording shorter than one frame is filled up with silence. */
  finish(): HearingBands {
    if (this.#frame === 0 && this.frames > 0) {
      const padded = this.#lines.map(({ held }, i) => {
        const signal = i === 0 ? this.#scratch : new Float32Array(this.#size)
        signal.fill(0)
        signal.set(held.subarray(0, this.#count))
        return signal
      })
      this.#measure(padded, 0)
    }
    const [mid, side] = this.#lines
    return {
      frames: this.frames,
      secondsPerFrame: this.#secondsPerFrame,
      mid: mid.levels,
      side: side?.levels ?? new Float32Array(mid.levels.length),
    }
  }
}

interface SignalLine {
  readonly isMid: boolean
  readonly levels: Float32Array
  readonly held: Float32Array
}

/**
 * Measures a clip. A mono clip is taken as both channels carrying it at -3 dB.
 * @param longest frames of the longest clip it is compared with: all of them are measured at the same times.
 */
export function hearingBands(clip: Clip, longest = clip.frames): HearingBands {
  const { sampleRateHz, channels, frames } = clip
  const meter = new HearingMeter({
    sampleRateHz,
    channels: channels.length,
    length: frames,
    longest,
  })
  meter.add(midAndSide(channels))
  return meter.finish()
}

/** The middle of a clip, and its sides where it has two channels. */
export function midAndSide(channels: readonly Float32Array[]): Float32Array[] {
  const [left, right] = channels
  if (!right) return [left]
  const out = [new Float32Array(left.length), new Float32Array(left.length)]
  splitStereo(left, right, out[0], out[1])
  return out
}

/** Factor from band power to intensity at the cochlea, relative to 0 dB SPL, per band. */
export function cochlearGains(calibration: Calibration): Float64Array {
  // At 1 kHz, where K-weighting is neutral after its -0.691 dB, LUFS is the power of both channels in dB.
  const offsetDb = calibration.dbSpl - calibration.lufs
  return FILTER_HZ.map((hz) => 10 ** ((offsetDb + earTransferDb(hz)) / 10))
}
