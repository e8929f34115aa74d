import { kWeightingDb } from '../loudness'
import { makeWindow, realFft, sumIntoBands } from '../spectrum'
import { THIRDS } from './profile'

const SIZE = 8192
const K_POWER = THIRDS.map(({ hz }) => 10 ** (kWeightingDb(hz) / 10))
/** Thirds in which spectra are held against each other. */
const JUDGED = THIRDS.flatMap(({ hz }, i) => (hz >= 60 && hz <= 12_000 ? [i] : []))

/** How a stretch stands to the whole. */
export interface PassageReading {
  readonly fromSeconds: number
  readonly toSeconds: number
  /** Difference of the long-term spectra in dB rms over thirds of an octave, the level taken out. */
  readonly apartDb: number
  /** K-weighted level against the whole's, in dB. */
  readonly louderDb: number
}

/** Shorter ones are no sample of a piece. */
export const SHORTEST_PASSAGE_SECONDS = 8
/** So much quieter than the whole, or so far from its spectrum, and a passage does not stand for it. */
export const QUIET_PASSAGE_DB = -6
export const UNLIKE_PASSAGE_DB = 3
/** So much under the whole a moment is a pause; a passage holds sound in so many of its moments at least. */
const PAUSE_DB = -36
const LEAST_SOUNDING = 0.75
/** A quiet and a full passage stand at least so far apart. */
const LEAST_CONTRAST_DB = 3

/** Takes the spectrum of a sound moment by moment, to find the stretch of it that stands for the whole. */
export class PassageMeter {
  readonly #window = Float32Array.from(makeWindow('hann', SIZE))
  readonly #fft = realFft(SIZE)
  readonly #power = new Float64Array(SIZE / 2 + 1)
  readonly #mono = new Float32Array(SIZE)
  /** Sums of the thirds' powers up to each moment: a stretch is the difference of two. */
  readonly #sums: Float64Array[] = [new Float64Array(THIRDS.length)]
  #count = 0

  constructor(private readonly sampleRateHz: number) {}

  /** Takes the next piece of one or two channels, as their sum. */
  add([left, right = left]: readonly Float32Array[]): void {
    for (let i = 0; i < left.length; i++) {
      this.#mono[this.#count++] = 0.5 * (left[i] + right[i])
      if (this.#count === SIZE) this.#measure()
    }
  }

  #measure(): void {
    this.#count = 0
    this.#fft.power(this.#mono, 0, this.#window, 1, this.#power)
    const thirds = sumIntoBands(this.#power, this.sampleRateHz / SIZE, THIRDS)
    const before = this.#sums[this.#sums.length - 1]
    this.#sums.push(thirds.map((v, i) => v + before[i]))
  }

  get #secondsPerMoment(): number {
    return SIZE / this.sampleRateHz
  }

  /** How a stretch stands to the whole; null where one of them is silent or there is nothing of it. */
  read(fromSeconds: number, toSeconds: number): PassageReading | null {
    const last = this.#sums.length - 1
    const at = (s: number) => Math.max(0, Math.min(last, Math.round(s / this.#secondsPerMoment)))
    const [from, to] = [at(fromSeconds), at(toSeconds)]
    if (to <= from) return null
    const whole = this.#between(0, last)
    const part = this.#between(from, to)
    const [a, b] = [weighted(part), weighted(whole)]
    if (a <= 1e-14 || b <= 1e-14) return null
    return {
      fromSeconds,
      toSeconds,
      apartDb: apart(part, whole),
      louderDb: 10 * Math.log10(a / b),
    }
  }

  /**
   * A quiet and a full stretch of a length: the quietest in which anything sounds, and the loudest; null where the piece is
   * equally loud all through, or too short for two.
   */
  extremes(seconds: number): { quiet: PassageReading; full: PassageReading } | null {
    const all = this.#stretches(seconds).filter((r) => this.#sounds(r))
    if (all.length === 0) return null
    const full = all.reduce((a, b) => (b.louderDb > a.louderDb ? b : a))
    const apart = all.filter(
      (r) => r.fromSeconds >= full.toSeconds || r.toSeconds <= full.fromSeconds,
    )
    if (apart.length === 0) return null
    const quiet = apart.reduce((a, b) => (b.louderDb < a.louderDb ? b : a))
    return full.louderDb - quiet.louderDb < LEAST_CONTRAST_DB ? null : { quiet, full }
  }

  /** The stretch of a length whose spectrum stands nearest the whole's, quieter ones left out; null for silence. */
  propose(seconds: number): PassageReading | null {
    const total = this.#totalSeconds
    if (total <= seconds) return this.read(0, total)
    const loud = this.#stretches(seconds).filter((r) => r.louderDb >= QUIET_PASSAGE_DB / 2)
    return loud.reduce<PassageReading | null>(
      (best, r) => (best && best.apartDb <= r.apartDb ? best : r),
      null,
    )
  }

  /** Whether most of a stretch is no pause. */
  #sounds({ fromSeconds, toSeconds }: PassageReading): boolean {
    const from = Math.round(fromSeconds / this.#secondsPerMoment)
    const to = Math.min(this.#sums.length - 1, Math.round(toSeconds / this.#secondsPerMoment))
    const least = 10 ** (PAUSE_DB / 10) * weighted(this.#between(0, this.#sums.length - 1))
    let sounding = 0
    for (let m = from; m < to; m++) if (weighted(this.#between(m, m + 1)) > least) sounding++
    return sounding >= LEAST_SOUNDING * (to - from)
  }

  get #totalSeconds(): number {
    return (this.#sums.length - 1) * this.#secondsPerMoment
  }

  /** Readings of all stretches of a length, one every half second; silent ones are left out. */
  #stretches(seconds: number): PassageReading[] {
    const step = Math.max(1, Math.round(0.5 / this.#secondsPerMoment))
    const found: PassageReading[] = []
    for (let m = 0; m * this.#secondsPerMoment + seconds <= this.#totalSeconds; m += step) {
      const from = m * this.#secondsPerMoment
      const reading = this.read(from, from + seconds)
      if (reading) found.push(reading)
    }
    return found
  }

  /** Mean powers of a stretch of moments. */
  #between(from: number, to: number): Float64Array {
    return this.#sums[to].map((v, i) => (v - this.#sums[from][i]) / (to - from))
  }
}

function weighted(thirds: Float64Array): number {
  return thirds.reduce((sum, v, i) => sum + v * K_POWER[i], 0)
}

function apart(a: Float64Array, b: Float64Array): number {
  const top = b.reduce((most, v) => Math.max(most, v), 0)
  // What lies 60 dB under the loudest third is no part of how it sounds.
  const heard = JUDGED.filter((i) => b[i] > 1e-6 * top)
  const off = heard.map((i) => 10 * Math.log10((a[i] + 1e-20) / (b[i] + 1e-20)))
  const mean = off.reduce((s, v) => s + v, 0) / off.length
  return Math.sqrt(off.reduce((s, v) => s + (v - mean) ** 2, 0) / off.length)
}
