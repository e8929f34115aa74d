import { erbNumberToHz, hzToErbNumber } from './erb'

/** One analysis band; edges and centre in Hz. */
export interface Band {
  readonly hz: number
  readonly fromHz: number
  readonly toHz: number
}

/** Band layouts: fractional octaves (IEC 61260-1) or steps of one ERB number. */
export type BandLayout = 'third' | 'sixth' | 'twelfth' | 'erb'

const LOWEST_HZ = 20
const HIGHEST_HZ = 20000
/** Octave ratio, base ten: IEC 61260-1:2014, 5.2. */
const OCTAVE = 10 ** (3 / 10)

/** All bands of a layout whose centres lie from 20 Hz to 20 kHz (nominal, so 19.95 Hz counts). */
export function makeBands(layout: BandLayout): readonly Band[] {
  switch (layout) {
    case 'third':
      return fractionalOctaves(3)
    case 'sixth':
      return fractionalOctaves(6)
    case 'twelfth':
      return fractionalOctaves(12)
    case 'erb':
      return erbBands(1)
  }
}

/** Exact mid-band frequencies 1000·G^(x/b), or ·G^((2x+1)/2b) for even b: IEC 61260-1:2014, eq. 2 and 3. */
function fractionalOctaves(perOctave: number): Band[] {
  const bands: Band[] = []
  const half = OCTAVE ** (1 / (2 * perOctave))
  const shift = perOctave % 2 === 0 ? 0.5 : 0
  for (let x = -8 * perOctave; x <= 8 * perOctave; x++) {
    const hz = 1000 * OCTAVE ** ((x + shift) / perOctave)
    if (hz > LOWEST_HZ * 0.99 && hz < HIGHEST_HZ * 1.01) {
      bands.push({ hz, fromHz: hz / half, toHz: hz * half })
    }
  }
  return bands
}

/** Bands `step` ERB numbers wide, side by side from 20 Hz to 20 kHz. */
export function erbBands(step: number): Band[] {
  const from = hzToErbNumber(LOWEST_HZ)
  const count = Math.floor((hzToErbNumber(HIGHEST_HZ) - from) / step)
  return Array.from({ length: count }, (_, i) => ({
    hz: erbNumberToHz(from + (i + 0.5) * step),
    fromHz: erbNumberToHz(from + i * step),
    toHz: erbNumberToHz(from + (i + 1) * step),
  }))
}

/**
 * Sums a power spectrum into bands. A bin stands for the span of half a bin on either side, and a band
 * takes the share of each bin that lies within its edges, so that power is neither lost nor counted twice.
 * @param power one value per bin, bin 0 first.
 * @param binHz spacing of the bins.
 */
export function sumIntoBands(
  power: ArrayLike<number>,
  binHz: number,
  bands: readonly Band[],
  out: Float64Array = new Float64Array(bands.length),
): Float64Array {
  for (let b = 0; b < bands.length; b++) {
    const low = bands[b].fromHz / binHz + 0.5
    const high = Math.min(bands[b].toHz / binHz + 0.5, power.length)
    let sum = 0
    for (let bin = Math.floor(low); bin < high; bin++) {
      const share = Math.min(high, bin + 1) - Math.max(low, bin)
      sum += power[bin] * share
    }
    out[b] = sum
  }
  return out
}

/**
 * {@link sumIntoBands} for spectra that come again and again: where bands begin and end is worked out once.
 * @param bins that a spectrum has.
 */
export class BandSums {
  readonly #first: Int32Array
  readonly #last: Int32Array
  /** Shares of the first bin and of the last one. */
  readonly #shares: Float64Array

  constructor(bands: readonly Band[], binHz: number, bins: number) {
    this.#first = new Int32Array(bands.length)
    this.#last = new Int32Array(bands.length)
    this.#shares = new Float64Array(2 * bands.length)
    bands.forEach(({ fromHz, toHz }, b) => {
      const low = fromHz / binHz + 0.5
      const high = Math.min(toHz / binHz + 0.5, bins)
      const first = Math.floor(low)
      const last = Math.ceil(high) - 1
      this.#first[b] = first
      this.#last[b] = last
      this.#shares[2 * b] = Math.max(0, Math.min(high, first + 1) - low)
      this.#shares[2 * b + 1] = last > first ? high - last : 0
    })
  }

  /** Bands `from` to `to` of a power spectrum. */
  take(power: ArrayLike<number>, out: Float64Array, from = 0, to = this.#first.length): void {
    for (let b = from; b < to; b++) {
      const [first, last] = [this.#first[b], this.#last[b]]
      if (last < first) {
        out[b] = 0
        continue
      }
      let sum = power[first] * this.#shares[2 * b]
      for (let bin = first + 1; bin < last; bin++) sum += power[bin]
      if (last > first) sum += power[last] * this.#shares[2 * b + 1]
      out[b] = sum
    }
  }
}
