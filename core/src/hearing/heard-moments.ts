import { halveSoftly } from '../audio'
import { hzToErbNumber, makeWindow, realFft } from '../spectrum'
import { earTransferDb } from './ear'
import { ERB_STEP, FILTER_COUNT, FILTER_HZ } from './excitation'
import { cochlearGains, DEFAULT_CALIBRATION } from './hearing-bands'
import type { Moments } from './moments'
import { QUIET } from './specific-loudness'
import { type FlatnessRange, flatnessRange, spreadTonality, takeTonality } from './tonality'

/**
 * What a track sounds like at each moment: power in quarter-ERB bands, `moments × FILTER_COUNT` values each. The middle
 * is (L+R)/2 and the side (L-R)/2; values are relative to a mean square of 1 and doubled, so that middle plus side is
 * the power of both channels together, as loudness counts it. A mono sound is taken as both channels at -3 dB.
 */
export interface HeardMoments {
  readonly moments: Moments
  readonly mid: Float32Array
  /** Null for a mono sound, as is `cross`. */
  readonly side: Float32Array | null
  /** What left has over the mean of left and right: `mid + side` is that mean, doubled, in the same unit. */
  readonly cross: Float32Array | null
  /** Power that sounded before and still covers most of what comes now, middle and side together. */
  readonly past: Float32Array
  /** Part of its level over the threshold of hearing, in dB, that it still covers: 1 falling to 0 with time. */
  readonly fade: Float32Array
  /** How tonal the sound is that each filter hears, 0 for noise to 1 for tones. */
  readonly tonal: Float32Array
}

/**
 * Windows: long for the lows, short for the highs, as in Glasberg and Moore 2002. Theirs are Hann windows of 64 to 2 ms;
 * ours are squared Hann windows of 170 to 21 ms, effectively 46 to 6 ms: longer in the lows, so that 25 Hz does not smear
 * over its neighbours, and not shorter in the highs, where the power of noise would scatter more than hearing, which
 * smooths loudness over 22 ms and more, lets it. Loudness under a squared window is about even over moments a quarter of
 * it apart: a click is as loud wherever it falls. Where tones are told from noise (`tonalHz`), windows are longer than
 * those in which power is measured.
 */
const RANGES = [
  { halvings: 3, toHz: 100, tonalHz: [0, 800] },
  { halvings: 2, toHz: 500, tonalHz: null },
  { halvings: 1, toHz: 1250, tonalHz: null },
  { halvings: 0, toHz: Number.POSITIVE_INFINITY, tonalHz: [6000, Number.POSITIVE_INFINITY] },
] as const
/** Between those, tones are told from noise in a window of 85 ms, which tells partials 80 Hz apart. */
const TONAL_RANGE = { halvings: 1, longer: 2, tonalHz: [800, 6000] } as const
/** Length of the shortest window; the longer ones have as many samples, at a half, a quarter and an eighth of the rate. */
const WINDOW_SECONDS = 0.0213
const MOST_HALVINGS = 3

/** Times before a moment at which is looked for what still covers it, in seconds. */
const LAGS = {
  dense: [0.016, 0.0226, 0.032, 0.0453, 0.064, 0.0905, 0.128, 0.18],
  sampled: [0.0267, 0.08],
} as const
/** Below this the long windows hold the past already. */
const PAST_FROM_HZ = 200
/**
 * What covers later sounds falls in a straight line of dB over the logarithm of time, from this time after its end to
 * the threshold of hearing at that one, however loud it was (Moore 2012, chapter 3: gone by about 200 ms).
 */
const FADE_SECONDS = [0.003, 0.2] as const

/** Part of a level over the threshold of hearing that still covers after a time. */
function fadeAfter(seconds: number): number {
  const [from, to] = FADE_SECONDS
  return Math.max(0, Math.min(1, Math.log(to / seconds) / Math.log(to / from)))
}

/** Power at the threshold of hearing, at the usual calibration. */
const quietAsPower = cochlearGains(DEFAULT_CALIBRATION).map((gain, b) => QUIET[b] / gain)

interface Range {
  readonly halvings: number
  readonly window: Float32Array
  readonly scale: number
  /** Bins that are looked at: those of the range, and some beside it in which a lobe of it may lie. */
  readonly first: number
  readonly last: number
  /** Bins whose powers are asked for, by the range or by what tells tones from noise. */
  readonly powers: readonly [number, number]
  /** How much the range counts at each bin. */
  readonly weight: Float64Array
  /** Where each bin stands among the bands. */
  readonly place: Float64Array
  /** Width of a bin where the ear's transfer is steep from band to band, else 0. */
  readonly steepHz: number
  /** Where tones are told from noise in this window. */
  readonly flatness: FlatnessRange
}

/** Bins beside a range in which a lobe of it may lie. */
const LOBE_BINS = 6
/** A tone's lobe reaches this many bins to either side, and stands this far over what lies beside it. */
const HALF_LOBE = 4
const LEAST_PEAK = 8
/** Ranges meet over this part of the frequency to either side, where both count in part. */
const CROSSING = 0.06

/** What is looked for, and in which window: `longer` times the shortest, after as many halvings. */
interface RangeLayout {
  readonly halvings: number
  readonly longer?: number
  /** Where powers are taken. */
  readonly hz?: readonly [number, number]
  /** Where tones are told from noise. */
  readonly tonalHz?: readonly [number, number] | null
}

function makeRange(
  sampleRateHz: number,
  { halvings, longer = 1, hz: [fromHz, toHz] = [0, 0], tonalHz }: RangeLayout,
): Range {
  const size = longer * windowSize(sampleRateHz)
  const hann = makeWindow('hann', size)
  const window = Float32Array.from(hann, (w) => w * w)
  let square = 0
  for (const w of window) square += w * w
  const binHz = sampleRateHz / 2 ** halvings / size
  const lowest = hzToErbNumber(FILTER_HZ[0])
  const most = size / 2 - 1
  const first = Math.max(1, Math.floor(fromHz / binHz) - LOBE_BINS)
  const last = Math.min(
    most,
    toHz < Number.POSITIVE_INFINITY ? Math.ceil(toHz / binHz) + LOBE_BINS : most,
  )
  const flatness = flatnessRange(tonalHz ?? [0, 0], binHz, most + 1)
  return {
    halvings,
    steepHz: halvings === MOST_HALVINGS ? binHz : 0,
    flatness,
    powers: [Math.min(first, flatness.first), Math.max(last, flatness.last)],
    window,
    scale: 1 / (size * square),
    first,
    last,
    weight: Float64Array.from(
      { length: most + 2 },
      (_, k) => crossing(k * binHz, fromHz) * (1 - crossing(k * binHz, toHz)),
    ),
    place: Float64Array.from(
      { length: most + 2 },
      (_, k) => (hzToErbNumber(k * binHz) - lowest) / ERB_STEP,
    ),
  }
}

/** What the ear lets through at a place between two bands, against what it lets through of both shares. */
function transferBetween(hz: number, low: number, share: number): number {
  const at = 10 ** (earTransferDb(hz) / 10)
  return at / ((1 - share) * bandTransfer[low] + share * bandTransfer[low + 1])
}

const bandTransfer = FILTER_HZ.map((hz) => 10 ** (earTransferDb(hz) / 10))

/** From 0 below an edge to 1 above it. */
function crossing(hz: number, edgeHz: number): number {
  if (edgeHz <= 0) return 1
  if (edgeHz === Number.POSITIVE_INFINITY) return 0
  return Math.max(0, Math.min(1, 0.5 + (hz - edgeHz) / (2 * CROSSING * edgeHz)))
}

function windowSize(sampleRateHz: number): number {
  return 2 ** Math.round(Math.log2(sampleRateHz * WINDOW_SECONDS))
}

/** Powers of one signal, in bins `first` to `last`. */
function takePowers(
  spectrum: Float32Array,
  scale: number,
  first: number,
  last: number,
  out: Float64Array,
): void {
  for (let k = first; k <= last; k++) {
    const re = spectrum[2 * k]
    const im = spectrum[2 * k + 1]
    out[k] = (re * re + im * im) * scale
  }
}

/** Powers of two signals together. */
function takeBoth(
  a: Float32Array,
  b: Float32Array,
  scale: number,
  first: number,
  last: number,
  out: Float64Array,
): void {
  for (let k = first; k <= last; k++) {
    const re = a[2 * k]
    const im = a[2 * k + 1]
    const otherRe = b[2 * k]
    const otherIm = b[2 * k + 1]
    out[k] = (re * re + im * im + otherRe * otherRe + otherIm * otherIm) * scale
  }
}

/** Twice the real part of the product of two signals' spectra. */
function takeCross(
  a: Float32Array,
  b: Float32Array,
  scale: number,
  first: number,
  last: number,
  out: Float64Array,
): void {
  for (let k = first; k <= last; k++) {
    out[k] = 2 * (a[2 * k] * b[2 * k] + a[2 * k + 1] * b[2 * k + 1]) * scale
  }
}

/**
 * Powers of bins as powers of bands. What the lobe of a tone holds goes to the place of its centre, shared by the two
 * bands next to it, so that a tone stands where it is and not where its window smears it; other bins go to their own.
 * @param lead whose lobes they are; @param parts what is summed over them; @param out rows of bands, from `row` on.
 */
function lobesIntoBands(
  range: Range,
  lead: Float64Array,
  parts: readonly Float64Array[],
  out: readonly Float32Array[],
  row: number,
  factor: number,
): void {
  const { first, last } = range
  let begin = first
  while (begin <= last) {
    // Up to the top, and down again to the next valley, as far as a tone's lobe reaches.
    let top = begin
    while (top < last && lead[top + 1] >= lead[top]) top++
    const low = Math.max(begin, top - HALF_LOBE)
    for (let k = begin; k < low; k++) put(range, k, k, k, parts, out, row, factor)
    const beside = low > first ? lead[low - 1] : lead[low]
    begin = low
    let end = top
    while (end < last && end - top < HALF_LOBE && lead[end + 1] < lead[end]) end++
    if (lead[top] > LEAST_PEAK * Math.max(beside, lead[end])) {
      let [power, moment] = [0, 0]
      for (let k = begin; k <= end; k++) {
        power += lead[k]
        moment += k * lead[k]
      }
      put(range, moment / power, begin, end, parts, out, row, factor)
    } else {
      for (let k = begin; k <= end; k++) put(range, k, k, k, parts, out, row, factor)
    }
    begin = end + 1
  }
}

/** Puts what bins `begin` to `end` hold at one place, in bins. */
function put(
  { weight, place, steepHz: binHz }: Range,
  centre: number,
  begin: number,
  end: number,
  parts: readonly Float64Array[],
  out: readonly Float32Array[],
  row: number,
  factor: number,
): void {
  const k = Math.floor(centre)
  const within = centre - k
  const counts = weight[k] + within * (weight[k + 1] - weight[k])
  const at = place[k] + within * (place[k + 1] - place[k])
  if (counts <= 0 || at <= -1 || at >= FILTER_COUNT) return
  const low = Math.max(0, Math.min(FILTER_COUNT - 2, Math.floor(at)))
  const share = Math.max(0, Math.min(1, at - low))
  const exact = binHz > 0 ? counts * transferBetween(centre * binHz, low, share) : counts
  for (let p = 0; p < parts.length; p++) {
    const part = parts[p]
    let sum = 0
    for (let bin = begin; bin <= end; bin++) sum += part[bin]
    const power = factor * exact * sum
    out[p][row + low] += power * (1 - share)
    out[p][row + low + 1] += power * share
  }
}

/** How a recording is listened to. */
export interface MomentsLayout {
  readonly sampleRateHz: number
  readonly channels: number
  readonly moments: Moments
}

const PIECE = 16384

/** Listens to a recording that comes in pieces, in order. */
export class MomentsMeter {
  readonly #moments: Moments
  readonly #ranges: readonly Range[]
  readonly #pastRange: Range
  readonly #tonalRange: Range
  readonly #lags: readonly { readonly frames: number; readonly fade: number }[]
  /** Frames that are held before and after a moment. */
  readonly #before: number
  readonly #after: number
  readonly #held: Float32Array[]
  /** Where the held samples begin in the recording, and how many there are. */
  #from: number
  #count: number
  #next = 0
  readonly #mid: Float32Array
  readonly #side: Float32Array | null
  readonly #cross: Float32Array | null
  readonly #past: Float32Array
  readonly #fade: Float32Array
  readonly #tonal: Float32Array
  /** Per channel, the widest window at a half, a quarter and an eighth of the rate. */
  readonly #halved: Float32Array[][]
  readonly #spectra: Float32Array[]
  readonly #sums = new Float32Array(FILTER_COUNT)
  /** The powers whose lobes are looked for, and those that are measured. */
  readonly #lead: Float64Array
  readonly #parts: readonly Float64Array[]

  constructor({ sampleRateHz, channels, moments }: MomentsLayout) {
    this.#moments = moments
    let from = 0
    this.#ranges = RANGES.map(({ toHz, ...layout }) => {
      const range = makeRange(sampleRateHz, { ...layout, hz: [from, toHz] })
      from = toHz
      return range
    })
    this.#pastRange = makeRange(sampleRateHz, {
      halvings: 0,
      hz: [PAST_FROM_HZ, Number.POSITIVE_INFINITY],
    })
    this.#tonalRange = makeRange(sampleRateHz, TONAL_RANGE)
    this.#lags = LAGS[moments.isDense ? 'dense' : 'sampled'].map((seconds) => ({
      frames: Math.round(seconds * sampleRateHz),
      fade: fadeAfter(seconds),
    }))
    const longestLag = this.#lags[this.#lags.length - 1].frames
    const window = windowSize(sampleRateHz)
    // One frame more, which halving asks for.
    this.#after = (window << MOST_HALVINGS) / 2 + 2 ** MOST_HALVINGS
    this.#before = Math.max(this.#after, longestLag + window / 2)
    const size = this.#before + this.#after + PIECE
    this.#held = Array.from({ length: channels }, () => new Float32Array(size))
    this.#from = -this.#before
    this.#count = this.#before
    const cells = moments.at.length * FILTER_COUNT
    this.#mid = new Float32Array(cells)
    this.#side = channels > 1 ? new Float32Array(cells) : null
    this.#cross = channels > 1 ? new Float32Array(cells) : null
    this.#past = new Float32Array(cells)
    this.#fade = new Float32Array(cells)
    this.#tonal = new Float32Array(cells)
    const longest = TONAL_RANGE.longer * window
    this.#halved = this.#held.map(() =>
      Array.from(
        { length: MOST_HALVINGS },
        (_, h) => new Float32Array((window << (MOST_HALVINGS - 1 - h)) + 2 ** MOST_HALVINGS),
      ),
    )
    this.#spectra = [new Float32Array(longest + 2), new Float32Array(longest + 2)]
    const bins = () => new Float64Array(longest / 2 + 1)
    this.#lead = bins()
    this.#parts = channels > 1 ? [bins(), bins(), bins()] : [this.#lead]
  }

  /** Takes the next piece. @param signals middle, and the sides where there are two channels. */
  add(signals: readonly Float32Array[]): void {
    const { length } = signals[0]
    for (let at = 0; at < length; ) {
      const skipped = this.#skip(length - at)
      at += skipped
      if (skipped > 0) continue
      const taken = Math.min(length - at, this.#held[0].length - this.#count)
      this.#held.forEach((held, i) => {
        held.set(signals[i].subarray(at, at + taken), this.#count)
      })
      at += taken
      this.#count += taken
      this.#listen()
    }
  }

  /** What was heard. What lies beyond the end is silent. */
  finish(): HeardMoments {
    const silence = this.#held.map(() => new Float32Array(PIECE))
    while (this.#next < this.#moments.at.length) this.add(silence)
    return {
      moments: this.#moments,
      mid: this.#mid,
      side: this.#side,
      cross: this.#cross,
      past: this.#past,
      fade: this.#fade,
      tonal: this.#tonal,
    }
  }

  /** Goes past what no moment hears. @returns frames of the piece that are not needed. */
  #skip(left: number): number {
    const next = this.#moments.at[this.#next]
    if (next === undefined) return left
    const needed = next - this.#before
    const gone = this.#from + this.#count
    if (needed <= gone) return 0
    const skipped = Math.min(left, needed - gone)
    this.#from = gone + skipped
    this.#count = 0
    return skipped
  }

  #listen(): void {
    const { at } = this.#moments
    while (this.#next < at.length && at[this.#next] + this.#after <= this.#from + this.#count) {
      this.#measure(at[this.#next] - this.#from)
      this.#next++
    }
    const next = at[this.#next]
    if (next === undefined) return
    const spare = Math.min(this.#count, next - this.#before - this.#from)
    if (spare <= 0) return
    for (const held of this.#held) held.copyWithin(0, spare, this.#count)
    this.#from += spare
    this.#count -= spare
  }

  /** @param centre of the moment among the held samples. */
  #measure(centre: number): void {
    const row = this.#next * FILTER_COUNT
    const window = this.#pastRange.window.length
    this.#held.forEach((held, c) => {
      let from = held
      let start = centre - (window << MOST_HALVINGS) / 2
      this.#halved[c].forEach((out, h) => {
        halveSoftly(
          from,
          start,
          out,
          (window << (MOST_HALVINGS - 1 - h)) + (MOST_HALVINGS - 1 - h) * 2,
        )
        from = out
        start = 0
      })
    })
    const factor = 2 * this.#monoFactor
    const out = [this.#mid, this.#side, this.#cross].flatMap((part) => (part ? [part] : []))
    for (const range of this.#ranges) {
      this.#transform(range, this.#startOf(range, centre))
      this.#takeParts(range)
      lobesIntoBands(range, this.#lead, this.#parts, out, row, factor)
      takeTonality(range.flatness, this.#lead, this.#tonal, row)
    }
    this.#transform(this.#tonalRange, this.#startOf(this.#tonalRange, centre))
    takeTonality(this.#tonalRange.flatness, this.#lead, this.#tonal, row)
    spreadTonality(
      this.#tonal,
      (b) => this.#mid[row + b] + (this.#side ? this.#side[row + b] : 0),
      row,
    )
    const range = this.#pastRange
    for (const { frames, fade } of this.#lags) {
      this.#transform(range, centre - frames - window / 2)
      this.#sums.fill(0)
      lobesIntoBands(range, this.#lead, [this.#lead], [this.#sums], 0, factor)
      this.#remember(fade, row)
    }
  }

  /** Where a window about a moment begins, in the samples held or in what was halved of them. */
  #startOf({ halvings, window }: Range, centre: number): number {
    if (halvings === 0) return centre - window.length / 2
    const halved = this.#pastRange.window.length << (MOST_HALVINGS - halvings)
    return (halved - window.length) / 2
  }

  /** Keeps what covers most, as heard at the usual level. */
  #remember(fade: number, row: number): void {
    for (let b = 0; b < FILTER_COUNT; b++) {
      const still = this.#sums[b]
      const quiet = quietAsPower[b]
      if (still <= quiet) continue
      // Comparing in dB over threshold, where each fades by its own part.
      const held = this.#past[row + b]
      if (held <= quiet) {
        this.#past[row + b] = still
        this.#fade[row + b] = fade
      } else if (fade * Math.log(still / quiet) > this.#fade[row + b] * Math.log(held / quiet)) {
        this.#past[row + b] = still
        this.#fade[row + b] = fade
      }
    }
  }

  /** A mono recording is both channels at -3 dB: its power is that of both already. */
  get #monoFactor(): number {
    return this.#side ? 1 : 0.5
  }

  /** Spectra from a sample on, and the power of all channels together. */
  #transform({ halvings, window, scale, powers: [first, last] }: Range, start: number): void {
    const fft = realFft(window.length)
    for (let c = 0; c < this.#held.length; c++) {
      const signal = halvings === 0 ? this.#held[c] : this.#halved[c][halvings - 1]
      fft.windowed(signal, start, window, this.#spectra[c], first, last)
    }
    const [mid, side] = this.#spectra
    if (this.#held.length < 2) takePowers(mid, 2 * scale, first, last, this.#lead)
    else takeBoth(mid, side, 2 * scale, first, last, this.#lead)
  }

  /** Of the same spectra the powers of the middle and the side, and twice the real part of their product. */
  #takeParts({ scale, first, last }: Range): void {
    if (this.#held.length < 2) return
    const [mid, side] = this.#spectra
    const [ofMid, ofSide, cross] = this.#parts
    takePowers(mid, 2 * scale, first, last, ofMid)
    takePowers(side, 2 * scale, first, last, ofSide)
    takeCross(mid, side, 2 * scale, first, last, cross)
  }
}

/** Listens to signals at once. @param signals middle, and the sides where there are two channels. */
export function heardMoments(
  signals: readonly Float32Array[],
  sampleRateHz: number,
  moments: Moments,
): HeardMoments {
  const meter = new MomentsMeter({ sampleRateHz, channels: signals.length, moments })
  meter.add(signals)
  return meter.finish()
}
