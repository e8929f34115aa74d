import { type Clip, powerToDb } from '../audio'
import { realFft } from './fft'
import { makeWindow, type WindowName } from './windows'

/** How sound is cut for a picture over time: sizes in frames. */
export interface SpectrogramSettings {
  /** Length of a window, a power of two. */
  readonly size: number
  /** From the middle of one window to that of the next. */
  readonly hop: number
  readonly window: WindowName
}

/** Columns of a spectrogram: column n stands at frame n·hop, from the first frame to the last. */
export function spectrogramColumns(frames: number, hop: number): number {
  return Math.floor(Math.max(0, frames - 1) / hop) + 1
}

/**
 * Measures one column after another. Levels are in dB relative to a mean square of 1 and averaged in power over channels,
 * scaled so that a steady sine reads its own level: -3.01 dB at full scale. With a Hann window that holds between bins
 * too, see {@link topOfSine}. Noise reads by the window's noise bandwidth more than its power in a bin.
 */
export class SpectrogramMeter {
  readonly bins: number
  readonly #window: Float32Array
  readonly #scale: number
  readonly #power: Float64Array

  constructor(private readonly settings: SpectrogramSettings) {
    const { size, window } = settings
    this.bins = size / 2 + 1
    this.#window = Float32Array.from(makeWindow(window, size))
    let sum = 0
    for (const w of this.#window) sum += w
    // Both halves of the spectrum hold a sine's amplitude: (A/2 · Σw)² twice is A²/2, its mean square.
    this.#scale = 1 / (sum * sum)
    this.#power = new Float64Array(this.bins)
  }

  /**
   * Levels of bins 0 to size/2 around a place.
   * @param channels samples; what lies beyond their ends is silent. @param centre frame in the middle of the window.
   */
  column(channels: readonly Float32Array[], centre: number, out: Float32Array): void {
    const { size } = this.settings
    const piece = pieceOf(size)
    const sums = sumsOf(this.bins)
    sums.fill(0)
    for (const channel of channels) {
      const from = centre - size / 2
      const [a, b] = [Math.max(0, from), Math.min(channel.length, from + size)]
      piece.fill(0)
      if (b > a) piece.set(channel.subarray(a, b), a - from)
      realFft(size).power(piece, 0, this.#window, this.#scale, this.#power)
      for (let k = 0; k < this.bins; k++) sums[k] += this.#power[k]
      if (this.settings.window === 'hann') {
        for (let k = 2; k < this.bins - 2; k++)
          sums[k] += topOfSine(this.#power, k) - this.#power[k]
      }
    }
    for (let k = 0; k < this.bins; k++) out[k] = powerToDb(sums[k] / channels.length)
  }
}

/** Shape of a lobe that is taken for a sine: its lower side as high as the upper one demands, within so much. */
const MOST_ASKEW = 1.26

/**
 * Power of a sine whose lobe has its highest bin here; the bin's own power where it is no such lobe. Hann's window has
 * the transform sin(πd) / (πd (1 - d²)): two bins tell where between them the sine lies and how far the higher one
 * reads below it (1.42 dB half-way), and the third one whether it is a sine.
 */
function topOfSine(power: Float64Array, k: number): number {
  const here = power[k]
  const [higher, lower] =
    power[k + 1] > power[k - 1] ? [power[k + 1], power[k - 1]] : [power[k - 1], power[k + 1]]
  if (!(here > higher) || !(higher > here / 4)) return here
  const ratio = Math.sqrt(higher / here)
  const off = (2 * ratio - 1) / (ratio + 1)
  const askew = Math.sqrt(lower / here) / ((1 - off) / (2 + off))
  if (askew > MOST_ASKEW || askew < 1 / MOST_ASKEW) return here
  const lobe = off < 1e-6 ? 1 : Math.sin(Math.PI * off) / (Math.PI * off * (1 - off * off))
  return here / (lobe * lobe)
}

const pieces = new Map<number, Float32Array>()
const sumsBySize = new Map<number, Float64Array>()

function pieceOf(size: number): Float32Array {
  let piece = pieces.get(size)
  if (!piece) {
    piece = new Float32Array(size)
    pieces.set(size, piece)
  }
  return piece
}

function sumsOf(bins: number): Float64Array {
  let sums = sumsBySize.get(bins)
  if (!sums) {
    sums = new Float64Array(bins)
    sumsBySize.set(bins, sums)
  }
  return sums
}

/** All columns of a clip: `columns × bins` levels in dB. */
export function spectrogram(clip: Clip, settings: SpectrogramSettings): Float32Array {
  const meter = new SpectrogramMeter(settings)
  const columns = spectrogramColumns(clip.frames, settings.hop)
  const out = new Float32Array(columns * meter.bins)
  for (let n = 0; n < columns; n++) {
    const row = out.subarray(n * meter.bins, (n + 1) * meter.bins)
    meter.column(clip.channels, n * settings.hop, row)
  }
  return out
}

/**
 * One column as levels of ranges: the loudest bin of each, or what lies between two bins where a range holds none.
 * @param edges of the ranges in bins, one more than there are of them. @param out what is there already stays where it is
 * louder.
 */
export function loudestInRanges(
  column: Float32Array,
  edges: ArrayLike<number>,
  out: Float32Array,
): void {
  const last = column.length - 1
  for (let i = 0; i + 1 < edges.length; i++) {
    const [from, to] = [Math.max(0, Math.ceil(edges[i])), Math.min(last, Math.floor(edges[i + 1]))]
    let most = out[i]
    if (from > to) {
      const at = Math.min(last, (edges[i] + edges[i + 1]) / 2)
      const k = Math.min(last - 1, Math.floor(at))
      most = Math.max(most, column[k] + (at - k) * (column[k + 1] - column[k]))
    }
    for (let k = from; k <= to; k++) if (column[k] > most) most = column[k]
    out[i] = most
  }
}
