import { type EqBand, newBand } from '../../filters'
import { makeWindow, realFft } from '../../spectrum'
import { readSteadyLine } from './steady-line'

/** One line of a hum. */
export interface Harmonic {
  readonly number: number
  /** How far it stands above its neighbours in the soft moments, in dB. */
  readonly heightDb: number
  /** Its level, in dB relative to a mean square of one. */
  readonly levelDb: number
}

/** A tone of the mains and its harmonics under a sound. */
export interface Hum {
  /** The fundamental, as it was measured. */
  readonly hz: number
  readonly mainsHz: 50 | 60
  /** The harmonics that stand out, the fundamental being the first: their number, and how far they do in dB. */
  readonly harmonics: readonly Harmonic[]
  /** Power of all of them, in dB against the whole sound. */
  readonly levelDb: number
  /** Needles that take them out. */
  readonly cuts: readonly EqBand[]
}

type Line = Omit<Harmonic, 'levelDb'>

const WINDOW_SECONDS = 1.37
const MAINS_HZ = [50, 60] as const
/** How far mains may be off, as a part of their frequency: half a percent is far out for a grid or a machine. */
const MOST_OFF = 0.005
const STEP_HZ = 0.02
const MOST_HARMONICS = 16
const HIGHEST_HZ = 1000
/** The soft moments in which hum is looked for, as a part of the time: what goes on through them all. */
const SOFT_SHARE = 0.2
/** A further line of a hum that is known stands so far above what is found beside it. */
const STEADY_HEIGHT_DB = 4
/** Bins that hold a steady tone, and those beside it that tell the floor, to either side. */
const HALF_LOBE = 2
const [BESIDE_FROM_HZ, BESIDE_TO_HZ] = [3, 11]
/** A lobe's top lies at most so far from the harmonic it is taken for, in bins. */
const MOST_BESIDE_BINS = 0.3
/** A harmonic stands out from this height on; so many of them make hum, one of them the first or second. */
const LEAST_HEIGHT_DB = 9
const LEAST_HARMONICS = 3
/** Two are enough where both stand this high, and one where it is steady all the time. */
const CLEAR_HEIGHT_DB = 16
/** A tone of the mains is the same all the time: its level in soft moments varies by no more than this, in dB. */
const MOST_SWAY_DB = 2.5
const MOST_LINE_SWAY_DB = 1.5
const LEAST_FRAMES = 4
/** Softer than this against the whole, it is nothing to be done about; in dB. */
const LEAST_DB = -75
/** Width of a needle, in Hz, and what the harmonic's number adds: enough for what grids wander while a piece lasts. */
const NEEDLE_HZ = 1
const NEEDLE_HZ_PER_NUMBER = 0.06
const HIGHEST_Q = 400

/** Looks for hum in low spectra over a sound; the sound comes in stretches of one rate. */
export class HumMeter {
  readonly #size: number
  readonly #binHz: number
  readonly #window: Float32Array
  readonly #scale: number
  readonly #last: number
  readonly #frames: Float64Array[] = []
  readonly #signals: Float32Array[] = []
  readonly #rateHz: number

  constructor(rateHz: number) {
    this.#rateHz = rateHz
    this.#size = 2 ** Math.round(Math.log2(rateHz * WINDOW_SECONDS))
    this.#binHz = rateHz / this.#size
    this.#window = Float32Array.from(makeWindow('hann', this.#size))
    this.#scale = 1 / (this.#size * this.#window.reduce((sum, w) => sum + w * w, 0))
    this.#last = Math.min(this.#size / 2, Math.ceil((HIGHEST_HZ + 2 * BESIDE_TO_HZ) / this.#binHz))
  }

  /** Takes a stretch of the middle signal, which it keeps. */
  add(signal: Float32Array): void {
    this.#signals.push(signal)
    const fft = realFft(this.#size)
    const power = new Float64Array(this.#size / 2 + 1)
    for (let start = 0; start + this.#size <= signal.length; start += this.#size / 2) {
      fft.power(signal, start, this.#window, this.#scale, power)
      this.#frames.push(power.slice(0, this.#last + 1))
    }
  }

  /** @param wholePower mean square of the whole sound. */
  finish(wholePower: number): Hum | null {
    if (this.#frames.length < LEAST_FRAMES || wholePower <= 0) return null
    const soft = this.#softSpectrum()
    const found = MAINS_HZ.map((mains) => this.#fit(soft, mains)).reduce((a, b) =>
      b.score > a.score ? b : a,
    )
    const { harmonics } = found
    if (!harmonics.some((h) => h.number <= 2)) return null
    const hz = this.#refined(soft, found.hz, harmonics)
    const isSeries =
      harmonics.length >= LEAST_HARMONICS ||
      (harmonics.length === 2 && harmonics.every((h) => h.heightDb >= CLEAR_HEIGHT_DB))
    if (
      !(isSeries && this.#sway(hz, harmonics, 0.5) <= MOST_SWAY_DB) &&
      !this.#isLine(hz, harmonics)
    ) {
      return null
    }
    const lines = this.#allHarmonics(hz, harmonics)
    const power = lines.reduce((sum, h) => sum + 10 ** (h.levelDb / 10), 0)
    const levelDb = 10 * Math.log10(power / wholePower)
    if (levelDb < LEAST_DB) return null
    return {
      hz,
      mainsHz: found.mains,
      harmonics: lines,
      levelDb,
      cuts: lines.map(({ number }) =>
        needle(number * hz, NEEDLE_HZ + NEEDLE_HZ_PER_NUMBER * number),
      ),
    }
  }

  /**
   * All lines of a hum whose fundamental is known: those that stood out of the soft moments, and others that go on
   * evenly under what is played.
   */
  #allHarmonics(hz: number, found: readonly Line[]): Harmonic[] {
    const lines: Harmonic[] = []
    for (let number = 1; number <= MOST_HARMONICS && number * hz < HIGHEST_HZ; number++) {
      const known = found.find((h) => h.number === number)
      const { heightDb, levelDb } = readSteadyLine(this.#signals, this.#rateHz, number * hz)
      if (known) lines.push({ number, heightDb: known.heightDb, levelDb })
      else if (heightDb >= STEADY_HEIGHT_DB) lines.push({ number, heightDb, levelDb })
    }
    return lines
  }

  /** Power of each bin that is there in all but the softest moments. */
  #softSpectrum(): Float64Array {
    const at = Math.floor(SOFT_SHARE * this.#frames.length)
    const column = new Float64Array(this.#frames.length)
    return Float64Array.from({ length: this.#last + 1 }, (_, k) => {
      this.#frames.forEach((frame, f) => {
        column[f] = frame[k]
      })
      return column.sort()[at]
    })
  }

  /** The fundamental near the mains' at whose multiples most stands out. */
  #fit(soft: Float64Array, mains: 50 | 60) {
    let best = { mains, hz: mains as number, score: 0, harmonics: [] as readonly Line[] }
    const [from, to] = [mains * (1 - MOST_OFF), mains * (1 + MOST_OFF)]
    for (let hz = from; hz <= to; hz += STEP_HZ) {
      const harmonics: { number: number; heightDb: number }[] = []
      for (let number = 1; number <= MOST_HARMONICS && number * hz < HIGHEST_HZ; number++) {
        const heightDb = this.#height(soft, number * hz)
        if (heightDb >= LEAST_HEIGHT_DB) harmonics.push({ number, heightDb })
      }
      const score = harmonics.reduce((sum, h) => sum + h.heightDb, 0)
      if (score > best.score) best = { mains, hz, score, harmonics }
    }
    return best
  }

  /** Power of the lobe of a tone at a frequency. */
  #tone(power: Float64Array, hz: number): number {
    const centre = Math.round(hz / this.#binHz)
    let sum = 0
    for (let k = centre - HALF_LOBE; k <= centre + HALF_LOBE; k++) sum += power[k] ?? 0
    return sum
  }

  /** How far the bins at a frequency stand over the middle one of those beside, in dB. */
  #height(soft: Float64Array, hz: number): number {
    const floor = this.#floor(soft, hz)
    const { place, power } = this.#top(soft, hz)
    // A tone beside the place does not count for it.
    if (Math.abs(place - hz / this.#binHz) > MOST_BESIDE_BINS) return 0
    return 10 * Math.log10((power + 1e-20) / (floor + 1e-20))
  }

  /** The middle one of the bins beside a frequency. */
  #floor(soft: Float64Array, hz: number): number {
    const centre = Math.round(hz / this.#binHz)
    const beside: number[] = []
    const [near, far] = [BESIDE_FROM_HZ, BESIDE_TO_HZ].map((d) => Math.ceil(d / this.#binHz))
    for (let d = near; d <= far; d++) {
      beside.push(soft[Math.max(1, centre - d)], soft[Math.min(this.#last, centre + d)])
    }
    return beside.sort((a, b) => a - b)[beside.length >> 1]
  }

  /** The top of the lobe near a frequency: its place in bins, and its power. */
  #top(soft: Float64Array, hz: number): { place: number; power: number } {
    let top = Math.round(hz / this.#binHz)
    for (const k of [top - 1, top + 1]) if (soft[k] > soft[top]) top = k
    const [a, b, c] = [-1, 0, 1].map((d) => Math.log(soft[top + d] + 1e-30))
    const bend = a - 2 * b + c
    return { place: top + (bend < 0 ? (0.5 * (a - c)) / bend : 0), power: soft[top] }
  }

  /** The fundamental from where the tops of the lobes lie, each counted by its number: the high ones tell most. */
  #refined(soft: Float64Array, hz: number, harmonics: readonly Line[]): number {
    let [sum, weight] = [0, 0]
    for (const { number, heightDb } of harmonics) {
      const counts = number * number * Math.min(heightDb, 30)
      sum += (counts * this.#top(soft, number * hz).place * this.#binHz) / number
      weight += counts
    }
    return sum / weight
  }

  /** One line by itself is hum where its level is the same whatever is played. */
  #isLine(hz: number, harmonics: readonly Line[]): boolean {
    const low = harmonics.filter((h) => h.number <= 2 && h.heightDb >= CLEAR_HEIGHT_DB)
    return low.some((h) => this.#sway(hz, [h], 1) <= MOST_LINE_SWAY_DB)
  }

  /** How far the strongest harmonic's level varies over the softer part of the moments, in dB. */
  #sway(hz: number, harmonics: readonly Line[], part: number): number {
    const strongest = harmonics.reduce((a, b) => (b.heightDb > a.heightDb ? b : a))
    const levels = this.#frames
      .map((frame) => 10 * Math.log10(this.#tone(frame, strongest.number * hz) + 1e-20))
      .sort((a, b) => a - b)
      .slice(0, Math.ceil(part * this.#frames.length))
    const mean = levels.reduce((a, b) => a + b, 0) / levels.length
    return Math.sqrt(levels.reduce((sum, v) => sum + (v - mean) ** 2, 0) / levels.length)
  }
}

/** A notch that takes a steady tone and hardly anything beside it. */
export function needle(hz: number, widthHz: number): EqBand {
  const q = Math.min(HIGHEST_Q, Math.max(4, hz / widthHz))
  return {
    ...newBand('notch', Number(hz.toFixed(2))),
    q: Number(q.toFixed(1)),
  }
}
