import { besselI0, smoothStep } from '../audio'

/** Taps of the interpolating filter, and its Kaiser shape: flat within 0.1 dB to 18 kHz at 44.1 kHz. */
const TAPS = 64
const BETA = 7
const FADE_SECONDS = 0.02

/**
 * Delays one channel by a time that need not be a whole number of frames, by a windowed sinc. A new delay
 * is crossfaded to, so that moving it neither clicks nor bends the pitch.
 */
export class FractionalDelay {
  /** Frames by which a delay of zero is late. */
  readonly latency = TAPS / 2
  readonly #line: Float32Array
  readonly #fadeFrames: number
  #at = 0
  #now: Reader
  #next: Reader | null = null
  #waiting: Reader | null = null
  #faded = 0

  /** @param mostFrames the longest delay that will be asked for. */
  constructor(rateHz: number, mostFrames: number, frames = 0) {
    this.#line = new Float32Array(Math.ceil(mostFrames) + 2 * TAPS)
    this.#fadeFrames = Math.round(FADE_SECONDS * rateHz)
    this.#now = makeReader(frames)
  }

  /** @throws RangeError when the delay is negative or longer than was said. */
  set(frames: number): void {
    if (!(frames >= 0 && frames + 2 * TAPS <= this.#line.length + TAPS)) {
      throw new RangeError('The delay lies outside the range it was made for.')
    }
    this.#waiting = makeReader(frames)
  }

  reset(): void {
    this.#line.fill(0)
    this.#now = this.#waiting ?? this.#next ?? this.#now
    this.#next = null
    this.#waiting = null
  }

  process(channel: Float32Array, frames: number): void {
    for (let i = 0; i < frames; i++) {
      this.#line[this.#at] = channel[i]
      if (!this.#next && this.#waiting) {
        this.#next = this.#waiting
        this.#waiting = null
        this.#faded = 0
      }
      let value = this.#read(this.#now)
      if (this.#next) {
        const share = smoothStep(++this.#faded / this.#fadeFrames)
        value += share * (this.#read(this.#next) - value)
        if (this.#faded === this.#fadeFrames) {
          this.#now = this.#next
          this.#next = null
        }
      }
      channel[i] = value
      if (++this.#at === this.#line.length) this.#at = 0
    }
  }

  #read({ whole, taps }: Reader): number {
    const length = this.#line.length
    let place = this.#at - whole
    if (place < 0) place += length
    let sum = 0
    for (let t = 0; t < TAPS; t++) {
      sum += taps[t] * this.#line[place]
      if (--place < 0) place += length
    }
    return sum
  }
}

interface Reader {
  readonly whole: number
  readonly taps: Float64Array
}

function makeReader(frames: number): Reader {
  const whole = Math.floor(frames)
  return { whole, taps: delayTaps(frames - whole) }
}

/** Taps that delay by TAPS/2 plus a share of a frame. */
function delayTaps(share: number): Float64Array {
  const centre = TAPS / 2 + share
  return Float64Array.from({ length: TAPS }, (_, n) => {
    const x = n - centre
    const inside = 1 - (x / (TAPS / 2 + 1)) ** 2
    const window = inside <= 0 ? 0 : besselI0(BETA * Math.sqrt(inside)) / besselI0(BETA)
    return (Math.abs(x) < 1e-12 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * window
  })
}
