import type { Biquad } from './biquad'
import { Convolver } from './convolver'
import { linearPhaseFir } from './fir'
import { biquadStep, runSections, SvfSection } from './svf'

/** Slopes of a Linkwitz-Riley split, in dB per octave. */
export const CROSSOVER_SLOPES = [12, 24, 36, 48] as const
export type CrossoverSlope = (typeof CROSSOVER_SLOPES)[number]

/**
 * How a signal is split into bands that sum back.
 * `linkwitz-riley`: each branch is 6.02 dB down at the crossover, the branches are in phase, and the sum is
 * all-pass (Linkwitz 1976). `linear`: the same magnitudes without phase; the sum is the delayed input.
 * `subtractive`: the rest is what the low branch leaves; the sum is the input.
 */
export interface CrossoverSpec {
  readonly kind: 'linkwitz-riley' | 'linear' | 'subtractive'
  /** One to four crossover frequencies, rising. */
  readonly hz: readonly number[]
  readonly slopeDbPerOct: CrossoverSlope
}

/** Output of a crossover: `bands × channels` arrays. */
export type BandBuffers = readonly (readonly Float32Array[])[]

/** Splits two to five bands, block by block. */
export interface Crossover {
  readonly bands: number
  /** Frames by which all bands are late. */
  readonly latency: number
  /** Reads the first `frames` of each input channel and writes every band. */
  process(input: readonly Float32Array[], output: BandBuffers, frames: number): void
  reset(): void
  /** Gives memory back; the crossover is not to be used any more. */
  dispose(): void
}

/** What a crossover needs ready-made: the low-pass kernel of each frequency of a `linear` one; of others nothing. */
export type CrossoverDesign = readonly Float32Array[]

/** Takes tens of milliseconds for `linear`: ahead of the sound. */
export function designCrossover(
  { kind, hz, slopeDbPerOct }: CrossoverSpec,
  sampleRateHz: number,
): CrossoverDesign {
  if (kind !== 'linear') return []
  const taps = linearTaps(hz[0], sampleRateHz)
  return hz.map((f) => lowKernel(f, slopeDbPerOct, taps, sampleRateHz))
}

/** @throws RangeError when the frequencies are not one to four, rising, within the band. */
export function makeCrossover(
  spec: CrossoverSpec,
  sampleRateHz: number,
  channels: number,
  design: CrossoverDesign = designCrossover(spec, sampleRateHz),
): Crossover {
  const { hz } = spec
  const rising = hz.every((f, i) => f > (i === 0 ? 0 : hz[i - 1]) && f < sampleRateHz / 2)
  if (hz.length < 1 || hz.length > 4 || !rising) {
    throw new RangeError('A crossover has one to four frequencies, rising, below half the rate.')
  }
  switch (spec.kind) {
    case 'linkwitz-riley':
      return new LinkwitzRiley(spec, sampleRateHz, channels)
    case 'linear':
      return new LinearSplit(design, channels)
    case 'subtractive':
      return new Subtractive(spec, sampleRateHz, channels)
  }
}

type ButterworthPart = 'low' | 'high' | 'all'

/**
 * Butterworth sections of an order by the bilinear transform, low-pass, high-pass or the all-pass with
 * the same poles. Common poles make the sums below exact, which matched designs would not.
 */
function butterworthSections(
  order: number,
  hz: number,
  rateHz: number,
  part: ButterworthPart,
): Biquad[] {
  const t = Math.tan((Math.PI * hz) / rateHz)
  const sections: Biquad[] = []
  for (let k = 0; k < Math.floor(order / 2); k++) {
    const q = 1 / (2 * Math.cos((Math.PI * (2 * k + 1 + (order % 2))) / (2 * order)))
    const a0 = 1 + t / q + t * t
    const a1 = (2 * (t * t - 1)) / a0
    const a2 = (1 - t / q + t * t) / a0
    if (part === 'low') {
      const b = (t * t) / a0
      sections.push({ b0: b, b1: 2 * b, b2: b, a1, a2 })
    } else if (part === 'high') {
      sections.push({ b0: 1 / a0, b1: -2 / a0, b2: 1 / a0, a1, a2 })
    } else {
      sections.push({ b0: a2, b1: a1, b2: 1, a1, a2 })
    }
  }
  if (order % 2 === 1) {
    const a1 = (t - 1) / (t + 1)
    const g = 1 / (1 + t)
    if (part === 'low') sections.push({ b0: t * g, b1: t * g, b2: 0, a1, a2: 0 })
    else if (part === 'high') sections.push({ b0: g, b1: -g, b2: 0, a1, a2: 0 })
    else sections.push({ b0: a1, b1: 1, b2: 0, a1, a2: 0 })
  }
  return sections
}

/** Sections in series over float blocks, with the sum kept in double precision between them. */
class Cascade {
  readonly #sections: SvfSection[]
  readonly #work: Float64Array[]

  constructor(
    sections: readonly Biquad[],
    channels: number,
    private readonly sign = 1,
  ) {
    this.#sections = sections.map((s) => new SvfSection(channels, biquadStep(s)))
    this.#work = Array.from({ length: channels }, () => new Float64Array(CHUNK))
  }

  reset(): void {
    for (const s of this.#sections) s.reset()
  }

  process(input: readonly Float32Array[], output: readonly Float32Array[], frames: number): void {
    for (let at = 0; at < frames; at += CHUNK) {
      const count = Math.min(CHUNK, frames - at)
      for (let c = 0; c < input.length; c++) {
        for (let i = 0; i < count; i++) this.#work[c][i] = input[c][at + i]
      }
      runSections(this.#sections, this.#work, 0, count)
      for (let c = 0; c < input.length; c++) {
        for (let i = 0; i < count; i++) output[c][at + i] = this.sign * this.#work[c][i]
      }
    }
  }
}

const CHUNK = 128

class LinkwitzRiley implements Crossover {
  readonly bands: number
  readonly latency = 0
  readonly #splits: { low: Cascade; high: Cascade }[]
  /** For each band, the all-passes of the crossovers above it that it does not meet. */
  readonly #align: Cascade[][]
  readonly #rest: Float32Array[]

  constructor({ hz, slopeDbPerOct }: CrossoverSpec, rateHz: number, channels: number) {
    const order = slopeDbPerOct / 12
    this.bands = hz.length + 1
    this.#splits = hz.map((f) => {
      const low = butterworthSections(order, f, rateHz, 'low')
      const high = butterworthSections(order, f, rateHz, 'high')
      return {
        low: new Cascade([...low, ...low], channels),
        // At odd orders the branches oppose each other; turning one over brings them in phase.
        high: new Cascade([...high, ...high], channels, order % 2 === 1 ? -1 : 1),
      }
    })
    this.#align = Array.from({ length: this.bands }, (_, band) =>
      hz
        .slice(band + 1)
        .map((f) => new Cascade(butterworthSections(order, f, rateHz, 'all'), channels)),
    )
    this.#rest = Array.from({ length: channels }, () => new Float32Array(MOST_FRAMES))
  }

  reset(): void {
    for (const { low, high } of this.#splits) {
      low.reset()
      high.reset()
    }
    for (const list of this.#align) for (const cascade of list) cascade.reset()
  }

  dispose(): void {}

  process(input: readonly Float32Array[], output: BandBuffers, frames: number): void {
    let from = input
    this.#splits.forEach(({ low, high }, k) => {
      low.process(from, output[k], frames)
      const rest = k === this.#splits.length - 1 ? output[k + 1] : this.#rest
      high.process(from, rest, frames)
      from = rest
    })
    this.#align.forEach((list, band) => {
      for (const cascade of list) cascade.process(output[band], output[band], frames)
    })
  }
}

/** Longest block of a crossover. */
const MOST_FRAMES = 4096

class Subtractive implements Crossover {
  readonly bands: number
  readonly latency = 0
  readonly #lows: Cascade[]
  readonly #rest: Float32Array[]

  constructor({ hz, slopeDbPerOct }: CrossoverSpec, rateHz: number, channels: number) {
    const order = slopeDbPerOct / 6
    this.bands = hz.length + 1
    this.#lows = hz.map((f) => new Cascade(butterworthSections(order, f, rateHz, 'low'), channels))
    this.#rest = Array.from({ length: channels }, () => new Float32Array(MOST_FRAMES))
  }

  reset(): void {
    for (const low of this.#lows) low.reset()
  }

  dispose(): void {}

  process(input: readonly Float32Array[], output: BandBuffers, frames: number): void {
    for (let c = 0; c < input.length; c++) {
      for (let i = 0; i < frames; i++) this.#rest[c][i] = input[c][i]
    }
    this.#lows.forEach((low, k) => {
      low.process(this.#rest, output[k], frames)
      for (let c = 0; c < input.length; c++) {
        for (let i = 0; i < frames; i++) this.#rest[c][i] -= output[k][c][i]
      }
    })
    const last = output[this.#lows.length]
    for (let c = 0; c < input.length; c++) {
      for (let i = 0; i < frames; i++) last[c][i] = this.#rest[c][i]
    }
  }
}

/** Length of the kernels: some periods of the lowest crossover. */
function linearTaps(lowestHz: number, rateHz: number): number {
  const frames = (24 * rateHz) / lowestHz
  return Math.min(32767, Math.max(1023, 2 ** Math.ceil(Math.log2(frames)) - 1))
}

/**
 * The high branch of a linear-phase split as one kernel: what the low branch, {@link LinearSplit}'s, leaves of
 * the delayed input.
 */
export function linearHighPass(
  hz: number,
  slopeDbPerOct: CrossoverSlope,
  rateHz: number,
): Float32Array {
  const taps = linearTaps(hz, rateHz)
  const kernel = lowKernel(hz, slopeDbPerOct, taps, rateHz).map((v) => -v)
  kernel[(taps - 1) / 2] += 1
  return kernel
}

/** Magnitude of a Linkwitz-Riley low branch, that of its Butterworth half squared, without phase. */
function lowKernel(
  hz: number,
  slopeDbPerOct: CrossoverSlope,
  taps: number,
  rateHz: number,
): Float32Array {
  const order = slopeDbPerOct / 12
  const db = (at: number) => -20 * Math.log10(1 + (at / hz) ** (2 * order))
  return linearPhaseFir(db, taps, { kind: 'kaiser', attenuationDb: 100 }, rateHz).taps
}

class LinearSplit implements Crossover {
  readonly bands: number
  readonly latency: number
  /** Low-pass of each crossover, and one that only delays, for the last band. */
  readonly #lows: Convolver[][]
  readonly #below: Float32Array[]
  readonly #here: Float32Array[]

  constructor(kernels: CrossoverDesign, channels: number) {
    this.bands = kernels.length + 1
    const taps = kernels[0].length
    const pass = new Float32Array(taps)
    pass[(taps - 1) / 2] = 1
    this.#lows = [...kernels, pass].map((kernel) =>
      Array.from({ length: channels }, () => new Convolver(kernel)),
    )
    this.latency = (taps - 1) / 2 + this.#lows[0][0].latency
    this.#below = Array.from({ length: channels }, () => new Float32Array(MOST_FRAMES))
    this.#here = Array.from({ length: channels }, () => new Float32Array(MOST_FRAMES))
  }

  reset(): void {
    for (const list of this.#lows) for (const convolver of list) convolver.reset()
  }

  dispose(): void {
    for (const list of this.#lows) for (const convolver of list) convolver.dispose()
  }

  process(input: readonly Float32Array[], output: BandBuffers, frames: number): void {
    for (let c = 0; c < input.length; c++) {
      this.#below[c].fill(0, 0, frames)
      for (let k = 0; k < this.bands; k++) {
        const here = this.#here[c]
        for (let i = 0; i < frames; i++) here[i] = input[c][i]
        this.#lows[k][c].process(here, 0, frames)
        for (let i = 0; i < frames; i++) {
          output[k][c][i] = here[i] - this.#below[c][i]
          this.#below[c][i] = here[i]
        }
      }
    }
  }
}
