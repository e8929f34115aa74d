import { kaiserWindow } from '../spectrum'

const ATTENUATION_DB = 110
/** Half-band filters of the two doublings: what lies below 20 kHz at 48 kHz stays as it is. */
const FIRST_LENGTH = 87
const SECOND_LENGTH = 27
/** The last halving stops at half the rate itself, so that nothing folds back at its edge either. */
const LAST_LENGTH = 177
const LAST_CORNER = 0.23
export const OVERSAMPLING = 4

/** Taps at odd distances from the middle; the middle is one half, all others are nothing. */
function halfBand(length: number): Float64Array {
  const middle = (length - 1) / 2
  const window = kaiserWindow(length, ATTENUATION_DB)
  const taps = Float64Array.from({ length: (middle + 1) / 2 }, (_, i) => {
    const away = 2 * i + 1
    return (Math.sin((Math.PI * away) / 2) / (Math.PI * away)) * window[middle + away]
  })
  const sum = 2 * taps.reduce((a, v) => a + v, 0)
  return taps.map((v) => (0.5 * v) / sum)
}

/** A low-pass with its middle at `corner` of the rate, in one half: the middle first. */
function lowPass(length: number, corner: number): Float64Array {
  const middle = (length - 1) / 2
  const window = kaiserWindow(length, ATTENUATION_DB)
  const taps = Float64Array.from({ length: middle + 1 }, (_, i) =>
    i === 0
      ? 2 * corner
      : (Math.sin(2 * Math.PI * corner * i) / (Math.PI * i)) * window[middle + i],
  )
  const sum = taps.reduce((a, v, i) => a + (i === 0 ? v : 2 * v), 0)
  return taps.map((v) => v / sum)
}

const FIRST = halfBand(FIRST_LENGTH)
const SECOND = halfBand(SECOND_LENGTH)
const LAST = lowPass(LAST_LENGTH, LAST_CORNER)

/** Samples of a block behind those that filters still reach back to. */
class Line {
  samples: Float64Array
  #held = 0

  constructor(readonly reach: number) {
    this.samples = new Float64Array(reach)
  }

  /** Makes room for a block of so many; the last one's end becomes the past. @returns where the block begins. */
  open(count: number): number {
    const past = this.samples.subarray(this.#held, this.#held + this.reach)
    if (this.samples.length < this.reach + count) {
      const longer = new Float64Array(this.reach + count)
      longer.set(past)
      this.samples = longer
    } else {
      this.samples.copyWithin(0, this.#held, this.#held + this.reach)
    }
    this.#held = count
    return this.reach
  }

  reset(): void {
    this.samples.fill(0)
    this.#held = 0
  }
}

/** Sum of mirrored pairs about the gap between `low` and `low + 1`. */
function pairs(samples: Float64Array, low: number, taps: Float64Array): number {
  let sum = 0
  for (let i = 0; i < taps.length; i++) sum += taps[i] * (samples[low - i] + samples[low + 1 + i])
  return sum
}

/**
 * Runs a curve over a channel at four times its rate, so that what the curve adds does not fold back. The filters are
 * linear in phase and 110 dB deep; what lies above 0.42 of the rate goes, which is 20 kHz at 48 kHz.
 */
export class Oversampler {
  /** Frames by which it is late: halves of 43 and 88, quarters of 13 and 13. */
  static readonly latency = 72
  readonly #input = new Line(2 * FIRST.length)
  readonly #twice = new Line(2 * SECOND.length)
  readonly #four = new Line(4 * SECOND.length)
  readonly #last = new Line(LAST_LENGTH)

  /**
   * The first `frames` samples through the curve, in place.
   * @param shape is given the four samples of each frame in turn: `at` to `at + 3`, and the frame.
   */
  process(
    channel: Float32Array,
    frames: number,
    shape: (samples: Float64Array, at: number, frame: number) => void,
  ): void {
    const from = this.#input.open(frames)
    const twiceFrom = this.#twice.open(2 * frames)
    const fourFrom = this.#four.open(4 * frames)
    const lastFrom = this.#last.open(2 * frames)
    const input = this.#input.samples
    const twice = this.#twice.samples
    const four = this.#four.samples
    const last = this.#last.samples
    for (let i = 0; i < frames; i++) input[from + i] = channel[i]
    double(input, from, frames, FIRST, twice, twiceFrom)
    double(twice, twiceFrom, 2 * frames, SECOND, four, fourFrom)
    for (let i = 0; i < frames; i++) shape(four, fourFrom + OVERSAMPLING * i, i)
    halve(four, fourFrom, 2 * frames, last, lastFrom)
    const reach = LAST.length - 1
    for (let i = 0; i < frames; i++) {
      const at = lastFrom + 2 * i - reach
      // Four sums side by side: none waits for the other.
      let a = LAST[0] * last[at]
      let b = 0
      let c = 0
      let d = 0
      for (let k = 1; k <= reach; k += 4) {
        a += LAST[k] * (last[at - k] + last[at + k])
        b += LAST[k + 1] * (last[at - k - 1] + last[at + k + 1])
        c += LAST[k + 2] * (last[at - k - 2] + last[at + k + 2])
        d += LAST[k + 3] * (last[at - k - 3] + last[at + k + 3])
      }
      channel[i] = a + b + c + d
    }
  }

  reset(): void {
    for (const line of [this.#input, this.#twice, this.#four, this.#last]) line.reset()
  }
}

function double(
  input: Float64Array,
  from: number,
  count: number,
  taps: Float64Array,
  out: Float64Array,
  outFrom: number,
): void {
  for (let i = 0; i < count; i++) {
    const low = from + i - taps.length
    out[outFrom + 2 * i] = 2 * pairs(input, low, taps)
    out[outFrom + 2 * i + 1] = input[low + 1]
  }
}

/** From four samples per frame to two; the curve was run on them in place, past ones included. */
function halve(
  input: Float64Array,
  from: number,
  count: number,
  out: Float64Array,
  outFrom: number,
): void {
  const { length } = SECOND
  for (let i = 0; i < count; i++) {
    const at = from + 2 * i
    let sum = 0.5 * input[at + 1 - 2 * length]
    for (let k = 0; k < length; k++) {
      sum += SECOND[k] * (input[at - 2 * (length + k)] + input[at - 2 * (length - 1 - k)])
    }
    out[outFrom + i] = sum
  }
}
