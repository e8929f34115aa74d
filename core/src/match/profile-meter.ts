import { type Clip, powerToDb } from '../audio'
import { kWeightingDb, LoudnessMeter } from '../loudness'
import { makeWindow, type RealFft, realFft, sumIntoBands } from '../spectrum'
import { DecayMeter } from './decay-meter'
import {
  LEAST_PROFILE_DB,
  type Profile,
  ProfileError,
  type ProfileTitle,
  SHORTEST_PROFILE_SECONDS,
  THIRDS,
  TWELFTHS,
} from './profile'

const SIZE = 8192
const HOP = SIZE / 2
const BINS = SIZE / 2 + 1
/** A moment counts towards spread and crest when it is no further below the mean power. */
const ACTIVE_DB = 20
/** Pauses are the quietest moments of this share, where they lie this far below the mean. */
const PAUSE_SHARE = 0.05
const PAUSE_DB = 20
/** So many moments, and none further over the quietest of them than this: else they are no pauses but tails of notes. */
const LEAST_PAUSES = 5
const STEADY_DB = 3
/** Below this a moment is empty, and tells nothing of a recording's noise. */
const EMPTY_DB = -140
const OCTAVES = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000]

/** One octave of a spectrum, and what turns it into time, with as many samples as its top needs. */
interface Octave {
  readonly hz: number
  readonly from: number
  readonly to: number
  readonly fft: RealFft
  readonly part: Float32Array
  readonly time: Float32Array
  readonly window: Float32Array
  peak: number
  /** Sum of mean squares over moments. */
  power: number
}

/** Samples for each period of an octave's top, so that its peaks are not missed between them. */
const OVERSAMPLED = 8
const SMALLEST_FFT = 32

function octavesAt(sampleRateHz: number): Octave[] {
  const binHz = sampleRateHz / SIZE
  return OCTAVES.flatMap((hz) => {
    const from = Math.max(1, Math.round(hz / Math.SQRT2 / binHz))
    const to = Math.min(BINS - 1, Math.round((hz * Math.SQRT2) / binHz))
    if (from >= to) return []
    const needed = 2 ** Math.ceil(Math.log2(OVERSAMPLED * to))
    const size = Math.max(SMALLEST_FFT, Math.min(SIZE, needed))
    const part = new Float32Array(size + 2)
    const time = new Float32Array(size)
    const window = Float32Array.from(makeWindow('hann', size))
    return [{ hz, from, to, fft: realFft(size), part, time, window, peak: 0, power: 0 }]
  })
}

const K_WEIGHT = THIRDS.map(({ hz }) => 10 ** (kWeightingDb(hz) / 10))

/** Makes the {@link Profile} of a sound that comes in pieces. Memory grows by 31 numbers for every 4096 frames. */
export class ProfileMeter {
  readonly #loudness: LoudnessMeter
  readonly #decay: DecayMeter
  readonly #held: Float32Array[]
  readonly #window = Float32Array.from(makeWindow('hann', SIZE))
  readonly #scale: number
  readonly #fft = realFft(SIZE)
  readonly #spectra: Float32Array[]
  readonly #windowed = new Float32Array(SIZE)
  /** Of left and right together, and of their product, one value per bin. */
  readonly #both = new Float64Array(BINS)
  readonly #cross = new Float64Array(BINS)
  readonly #leftPower = new Float64Array(BINS)
  readonly #twelfths = new Float64Array(TWELFTHS.length)
  readonly #thirds = new Float64Array(THIRDS.length)
  readonly #left = new Float64Array(THIRDS.length)
  readonly #right = new Float64Array(THIRDS.length)
  readonly #product = new Float64Array(THIRDS.length)
  /** Powers of thirds, of each moment. */
  readonly #moments: Float32Array[] = []
  readonly #twelfthMoments: Float32Array[] = []
  readonly #octaves: Octave[]
  #count = 0
  #frames = 0
  #peak = 0
  #square = 0

  constructor(
    private readonly sampleRateHz: number,
    private readonly channels: number,
  ) {
    this.#loudness = new LoudnessMeter(sampleRateHz, channels)
    this.#decay = new DecayMeter(sampleRateHz)
    this.#held = Array.from({ length: channels }, () => new Float32Array(SIZE))
    this.#octaves = octavesAt(sampleRateHz)
    this.#spectra = [new Float32Array(SIZE + 2), new Float32Array(SIZE + 2)]
    let square = 0
    for (const w of this.#window) square += w * w
    this.#scale = 1 / (SIZE * square)
  }

  /** Length of what was taken so far. */
  get seconds(): number {
    return this.#frames / this.sampleRateHz
  }

  /** Takes the next piece: one array per channel. */
  add(piece: readonly Float32Array[]): void {
    const frames = piece[0].length
    this.#loudness.add(piece)
    this.#decay.add(piece)
    for (const channel of piece) {
      for (let i = 0; i < frames; i++) {
        const a = Math.abs(channel[i])
        if (a > this.#peak) this.#peak = a
        this.#square += (a * a) / this.channels
      }
    }
    this.#frames += frames
    for (let at = 0; at < frames; ) {
      const taken = Math.min(frames - at, SIZE - this.#count)
      this.#held.forEach((held, c) => {
        held.set(piece[c].subarray(at, at + taken), this.#count)
      })
      this.#count += taken
      at += taken
      if (this.#count < SIZE) return
      this.#measure()
      for (const held of this.#held) held.copyWithin(0, HOP)
      this.#count = SIZE - HOP
    }
  }

  /** Mean level of each third of an octave so far, in dB. */
  thirdsNow(): Float64Array {
    const count = Math.max(1, this.#moments.length)
    return this.#thirds.map((v) => toDb(v / count))
  }

  #measure(): void {
    const [first, second] = this.#spectra
    this.#transform(this.#held[0], first)
    if (this.channels > 1) this.#transform(this.#held[1], second)
    const right = this.channels > 1 ? second : first
    for (let k = 0; k < BINS; k++) {
      const twice = k === 0 || k === BINS - 1 ? this.#scale : 2 * this.#scale
      const [a, b, c, d] = [first[2 * k], first[2 * k + 1], right[2 * k], right[2 * k + 1]]
      this.#leftPower[k] = twice * (a * a + b * b)
      this.#both[k] = 0.5 * (this.#leftPower[k] + twice * (c * c + d * d))
      this.#cross[k] = twice * (a * c + b * d)
    }
    const binHz = this.sampleRateHz / SIZE
    const twelfths = sumIntoBands(this.#both, binHz, TWELFTHS)
    const thirds = sumIntoBands(this.#both, binHz, THIRDS)
    const left = sumIntoBands(this.#leftPower, binHz, THIRDS)
    const product = sumIntoBands(this.#cross, binHz, THIRDS)
    for (let i = 0; i < thirds.length; i++) {
      this.#left[i] += left[i]
      this.#right[i] += 2 * thirds[i] - left[i]
      this.#product[i] += product[i]
      this.#thirds[i] += thirds[i]
    }
    for (let i = 0; i < twelfths.length; i++) this.#twelfths[i] += twelfths[i]
    this.#moments.push(Float32Array.from(thirds))
    this.#twelfthMoments.push(Float32Array.from(twelfths))
    this.#peaksOf(first)
    if (this.channels > 1) this.#peaksOf(second)
  }

  #transform(signal: Float32Array, spectrum: Float32Array): void {
    const { size } = this.#fft
    for (let i = 0; i < size; i++) this.#windowed[i] = signal[i] * this.#window[i]
    this.#fft.forward(this.#windowed, spectrum)
  }

  /** The peak of each octave, from its part of the spectrum, in the half where the window is wide open. */
  #peaksOf(spectrum: Float32Array): void {
    for (const octave of this.#octaves) {
      const { from, to, fft, part, time, window } = octave
      part.set(spectrum.subarray(2 * from, 2 * to), 2 * from)
      fft.inverse(part, time)
      const { size } = fft
      let most = 0
      let square = 0
      for (let i = size / 4; i < (3 * size) / 4; i++) {
        const v = Math.abs(time[i] / window[i])
        if (v > most) most = v
        square += v * v
      }
      const scale = size / SIZE
      octave.peak = Math.max(octave.peak, most * scale)
      octave.power += (square * scale * scale) / (size / 2) / this.channels
    }
  }

  /** @throws ProfileError when the sound is too short or silent. */
  read({ name, subject = 'mix', words = '', tags = [] }: ProfileTitle): Profile {
    if (this.seconds < SHORTEST_PROFILE_SECONDS) {
      throw new ProfileError(
        `A profile needs at least ${SHORTEST_PROFILE_SECONDS} s of sound; this has ${this.seconds.toFixed(1)} s.`,
      )
    }
    const { integratedLufs, loudnessRangeLu } = this.#loudness.read()
    if (integratedLufs === null) throw new ProfileError('Only silence: nothing to profile.')
    const count = this.#moments.length
    const levels = (sum: Float64Array) => Array.from(sum, (v) => toDb(v / count))
    const most = new Float64Array(THIRDS.length)
    for (const moment of this.#moments) {
      for (let i = 0; i < moment.length; i++) {
        most[i] = Math.max(most[i], moment[i])
      }
    }
    const loud = this.#moments.map(weighted)
    const meanLoud = loud.reduce((a, v) => a + v, 0) / count
    const active = loud.map((v) => v >= meanLoud * 10 ** (-ACTIVE_DB / 10))
    return {
      version: 1,
      name,
      subject,
      words,
      tags: [...tags],
      seconds: this.seconds,
      topHz: Math.max(1000, this.sampleRateHz / 2),
      recordings: 1,
      loudness: {
        integratedLufs,
        rangeLu: loudnessRangeLu,
        crestDb: Math.max(0, powerToDb((this.#peak ** 2 * this.#frames) / this.#square)),
      },
      twelfths: {
        meanDb: levels(this.#twelfths),
        spreadDb: spreadOf(this.#twelfthMoments, active),
      },
      thirds: {
        meanDb: levels(this.#thirds),
        maxDb: Array.from(most, toDb),
        spreadDb: spreadOf(this.#moments, active),
        crestDb: THIRDS.map(({ hz }) => this.#crestAt(hz)),
        noiseDb: this.#noise(loud, meanLoud),
        quietDb: this.#quiet(loud, meanLoud),
        widthDb: THIRDS.map((_, i) => this.#widthOf(i)),
        correlation: THIRDS.map((_, i) => this.#correlationOf(i)),
      },
      decaySeconds: this.#decay.read(),
    }
  }

  #crestAt(hz: number): number {
    const octave = this.#octaves.find((o) => hz < o.hz * Math.SQRT2) ?? this.#octaves.at(-1)
    const mean = (octave?.power ?? 0) / this.#moments.length
    return octave && mean > 0 ? Math.max(0, powerToDb(octave.peak ** 2 / mean)) : 0
  }

  #widthOf(i: number): number {
    const [l, r, p] = [this.#left[i], this.#right[i], this.#product[i]]
    const side = Math.max(0, l + r - 2 * p)
    const mid = Math.max(0, l + r + 2 * p)
    if (side <= 1e-9 * mid) return LEAST_PROFILE_DB
    if (mid <= 1e-9 * side) return -LEAST_PROFILE_DB
    return powerToDb(side / mid)
  }

  #correlationOf(i: number): number {
    const power = Math.sqrt(this.#left[i] * this.#right[i])
    return power > 0 ? Math.max(-1, Math.min(1, this.#product[i] / power)) : 1
  }

  /** Mean of the quietest moments; null where nothing is quiet enough to be a pause. */
  #noise(loud: readonly number[], meanLoud: number): number[] | null {
    const order = loud.map((_, i) => i).sort((a, b) => loud[a] - loud[b])
    const heard = order.filter((i) => powerToDb(loud[i]) > EMPTY_DB)
    const quietest = heard.slice(0, Math.max(LEAST_PAUSES, Math.ceil(PAUSE_SHARE * loud.length)))
    const isPause = (i: number) => loud[i] < meanLoud * 10 ** (-PAUSE_DB / 10)
    const pauses = quietest.filter(isPause)
    if (pauses.length < LEAST_PAUSES) return null
    // Noise stands still; tails of notes do not.
    const spread = powerToDb(loud[pauses[pauses.length - 1]] / loud[pauses[0]])
    return spread > STEADY_DB ? null : this.#meanOf(pauses)
  }

  /** Mean of the few quietest moments between sounds, whatever they hold; null where the sound never pauses. */
  #quiet(loud: readonly number[], meanLoud: number): number[] | null {
    const pause = meanLoud * 10 ** (-PAUSE_DB / 10)
    const sounds = (v: number) => v >= pause
    // What precedes and follows a piece may be no part of the recording.
    const [first, last] = [loud.findIndex(sounds), loud.findLastIndex(sounds)]
    const between = loud.flatMap((v, i) => (i > first && i < last && v < pause ? [i] : []))
    const quietest = between.sort((x, y) => loud[x] - loud[y]).slice(0, LEAST_PAUSES)
    return quietest.length < LEAST_PAUSES ? null : this.#meanOf(quietest)
  }

  #meanOf(moments: readonly number[]): number[] {
    return THIRDS.map((_, b) =>
      toDb(moments.reduce((sum, i) => sum + this.#moments[i][b], 0) / moments.length),
    )
  }
}

/** {@link ProfileMeter} of a clip. @throws ProfileError when it is too short or silent. */
export function measureProfile(clip: Clip, title: ProfileTitle): Profile {
  const meter = new ProfileMeter(clip.sampleRateHz, Math.min(2, clip.channels.length))
  meter.add(clip.channels.slice(0, 2))
  return meter.read(title)
}

function toDb(power: number): number {
  return Math.max(LEAST_PROFILE_DB, powerToDb(power))
}

function weighted(thirds: Float32Array): number {
  return thirds.reduce((sum, v, i) => sum + v * K_WEIGHT[i], 0)
}

/** Standard deviation over the moments in which something sounds, in dB, per band. */
function spreadOf(moments: readonly Float32Array[], active: readonly boolean[]): number[] {
  return Array.from(moments[0] ?? [], (_, b) => {
    const levels = moments.flatMap((m, i) => (active[i] ? [toDb(m[b])] : []))
    const mean = levels.reduce((a, v) => a + v, 0) / levels.length
    const square = levels.reduce((a, v) => a + (v - mean) ** 2, 0)
    return Math.min(100, Math.sqrt(square / Math.max(1, levels.length)))
  })
}
