import { Beside, type EarParts, unmask } from './beside'
import { ERB_STEP, excitation, FILTER_COUNT, FILTER_HZ } from './excitation'
import type { HeardMoments } from './heard-moments'
import type { Calibration } from './hearing-bands'
import { kFactor } from './loudness-law'
import { type TrackPatterns, trackPatterns } from './track-patterns'
import { differenceAtEars, type Listening } from './two-ears'

/** One track as masking sees it: what is heard of it, and the gain at which it stands in the mix. */
export interface MaskingTrack {
  readonly heard: HeardMoments
  readonly gainDb: number
}

/** `stereo`: left and right apart; `mono`: the fold to one. */
export type MaskingMode = 'stereo' | 'mono'

/** How a session is listened to. */
export interface HearingSettings {
  readonly calibration: Calibration
  readonly mode: MaskingMode
  readonly listening: Listening
}

export const MASKING_MODEL =
  'Moore, Glasberg and Baer 1997: partial loudness of each track in the sum of the others; two ears after Moore and Glasberg 2007'

/** Slots of time in which losses are kept, so that one sees when they happen: at most this many of at least a second. */
const MOST_SLOTS = 400

/**
 * Sums over time of what {@link maskPatterns} found, in sone times seconds. Sums of parts of a passage add up, so that
 * workers can share one. Each moment counts with the time for which it stands.
 */
export interface MaskingSums {
  readonly tracks: number
  /** Slots of time in the whole passage, and how long each is. */
  readonly slots: number
  readonly slotSeconds: number
  /** Time that was listened to in each slot. */
  readonly slotHeard: Float64Array
  /** Per track: the time in which it sounds. */
  readonly time: Float64Array
  /** Per track and filter (`tracks × FILTER_COUNT`): loudness alone. */
  readonly alone: Float64Array
  /** Per track and filter: loudness that is lost in the mix. */
  readonly lost: Float64Array
  /** Per track and filter: loudness alone of what lies under its masked threshold, or has lost half and more. */
  readonly hidden: Float64Array
  readonly crowded: Float64Array
  /** Per track and filter: the part of `lost` that falls to maskers' sides. */
  readonly lostToSides: Float64Array
  /** Per target, masker and filter (`tracks × tracks × FILTER_COUNT`): loudness of the target lost to the masker. */
  readonly lostTo: Float64Array
  /** Per target, masker and slot (`tracks × tracks × slots`): the same, over time. */
  readonly lostWhen: Float64Array
  /** Per track and filter: loudness it loses while it is one of several that pile up there. */
  readonly piled: Float64Array
}

/** Tracks pile up at a place when at least this many are strong there and none of them is clear. */
const PILE = 3
/** A track is strong where it has this part of the loudest track's specific loudness, and clear from this share left. */
const STRONG_SHARE = 0.35
const CLEAR_SHARE = 0.45
/** Specific loudness under this (sone per ERB) is too soft to pile up. */
const PILE_FLOOR = 0.1
/** A track that keeps less than this share of its loudness at a place is crowded there. */
const CROWDED_SHARE = 0.5

/** How slots divide a passage. */
function slotsOf(patterns: readonly TrackPatterns[]): { slots: number; slotSeconds: number } {
  let seconds = 0
  for (const s of patterns[0]?.moments.seconds ?? []) seconds += s
  const slots = Math.max(1, Math.min(MOST_SLOTS, Math.ceil(seconds)))
  return { slots, slotSeconds: Math.max(1, seconds / slots) }
}

export function emptySums(patterns: readonly TrackPatterns[]): MaskingSums {
  const tracks = patterns.length
  const { slots, slotSeconds } = slotsOf(patterns)
  const rows = () => new Float64Array(tracks * FILTER_COUNT)
  return {
    tracks,
    slots,
    slotSeconds,
    slotHeard: new Float64Array(slots),
    time: new Float64Array(tracks),
    alone: rows(),
    lost: rows(),
    hidden: rows(),
    crowded: rows(),
    lostToSides: rows(),
    lostTo: new Float64Array(tracks * tracks * FILTER_COUNT),
    lostWhen: new Float64Array(tracks * tracks * slots),
    piled: rows(),
  }
}

/** Adds the sums of a part of the same passage. */
export function addSums(total: MaskingSums, part: MaskingSums): void {
  const add = (a: Float64Array, b: Float64Array) => {
    for (let i = 0; i < a.length; i++) a[i] += b[i]
  }
  for (const key of SUMMED) add(total[key], part[key])
}

const SUMMED = [
  'slotHeard',
  'time',
  'alone',
  'lost',
  'hidden',
  'crowded',
  'lostToSides',
  'lostTo',
  'lostWhen',
  'piled',
] as const

/** Masking of tracks over all of their moments. */
export function maskTracks(
  tracks: readonly MaskingTrack[],
  settings: HearingSettings,
): MaskingSums {
  return maskPatterns(tracks.map((track) => trackPatterns(track, settings)))
}

/**
 * Measures, over moments `from` to `to`, how much of each track's loudness is lost beside the others, per auditory
 * filter, and to whom. The noise against a track is what the others together make at each ear, its slopes set by their
 * sum; the loss is shared among them in proportion to their excitation, so that shares add up.
 */
export function maskPatterns(
  patterns: readonly TrackPatterns[],
  from = 0,
  to = patterns[0]?.moments.at.length ?? 0,
): MaskingSums {
  const sums = emptySums(patterns)
  const company = new Company(patterns)
  const partial = patterns.map(() => new Float64Array(FILTER_COUNT))
  const beside = new Beside()
  for (let m = from; m < to; m++) {
    company.at(m)
    const { seconds } = patterns[0].moments
    const slot = slotAt(patterns[0], m, sums)
    sums.slotHeard[slot] += seconds[m]
    const sounding: number[] = []
    patterns.forEach((pattern, t) => {
      if (pattern.weights[m] === 0) return
      sounding.push(t)
      const met = company.beside(t)
      beside.partial(met.signal, met.noise, met.kFactors, partial[t])
      account(sums, patterns, t, { m, slot, seconds: seconds[m] }, met, partial[t])
    })
    if (sounding.length >= PILE) accountPile(sums, patterns, m, sounding, partial)
  }
  return sums
}

function slotAt(
  { moments }: TrackPatterns,
  m: number,
  { slots, slotSeconds }: MaskingSums,
): number {
  const at = (moments.at[m] / lengthOf(moments.at)) * secondsOf(moments.seconds)
  return Math.max(0, Math.min(slots - 1, Math.floor(at / slotSeconds)))
}

const lengthOf = (at: Int32Array) => Math.max(1, at[at.length - 1] ?? 1)
const known = new WeakMap<Float64Array, number>()

/** Length of a passage by what its moments stand for. */
function secondsOf(seconds: Float64Array): number {
  let sum = known.get(seconds)
  if (sum === undefined) {
    sum = seconds.reduce((a, b) => a + b, 0)
    known.set(seconds, sum)
  }
  return sum
}

/** What tracks meet of each other, moment by moment. */
export class Company {
  readonly #two: boolean
  readonly #allMasker: Float64Array[]
  readonly #allIntensity: Float64Array[]
  readonly #all: EarParts = emptyParts()
  readonly #own: EarParts = emptyParts()
  readonly #others: EarParts = emptyParts()
  readonly #earNoise = new Float64Array(FILTER_COUNT)
  readonly #met = new Float64Array(FILTER_COUNT)
  readonly #won: Float64Array[]
  readonly #noise: Float64Array[]
  /** What all bring to a filter; and noise that covers as much. */
  readonly #covers = new Float64Array(FILTER_COUNT)
  readonly #asNoise = new Float64Array(FILTER_COUNT)
  readonly #othersCover = new Float64Array(FILTER_COUNT)
  readonly #othersAsNoise = new Float64Array(FILTER_COUNT)
  readonly #kFactors = new Float64Array(FILTER_COUNT)
  #m = 0

  constructor(private readonly patterns: readonly TrackPatterns[]) {
    this.#two = patterns.some((p) => p.ears.length > 1)
    const ears = () =>
      Array.from({ length: this.#two ? 2 : 1 }, () => new Float64Array(FILTER_COUNT))
    this.#allMasker = ears()
    this.#allIntensity = ears()
    this.#noise = ears()
    this.#won = ears()
  }

  /** Goes to a moment. */
  at(m: number): void {
    this.#m = m
    const row = m * FILTER_COUNT
    for (const sum of [...this.#allMasker, ...this.#allIntensity, this.#all.all, this.#all.apart]) {
      sum.fill(0)
    }
    this.#covers.fill(0)
    this.#asNoise.fill(0)
    for (const pattern of this.patterns) {
      this.#allMasker.forEach((sum, e) => {
        const { masker, intensity } = earOf(pattern, e)
        const whole = this.#allIntensity[e]
        for (let b = 0; b < FILTER_COUNT; b++) {
          sum[b] += masker[row + b]
          whole[b] += intensity[row + b]
        }
      })
      if (this.#two) addParts(pattern, row, this.#all)
      this.#addCover(pattern, row)
    }
  }

  /**
   * Excitation of a track at each ear, and of all others: made smaller by `won`, what the ears' difference wins.
   * `kFactors` tell how little they cover by being tonal: as much as noise of the power `asNoise`, where they bring `covers`.
   */
  beside(t: number): {
    signal: Float32Array[]
    noise: readonly Float64Array[]
    won: readonly Float64Array[]
    kFactors: Float64Array
    covers: Float64Array
    asNoise: Float64Array
  } {
    const row = this.#m * FILTER_COUNT
    const pattern = this.patterns[t]
    const signal = pattern.ears.map((ear) => ear.excitation.subarray(row, row + FILTER_COUNT))
    if (this.#two) this.#partsBeside(pattern, row)
    this.#noise.forEach((noise, e) => {
      const { masker, intensity } = earOf(pattern, e)
      const [whole, present] = [this.#allMasker[e], this.#allIntensity[e]]
      for (let b = 0; b < FILTER_COUNT; b++) {
        // Rounding may leave a trace of the track itself, which is far below hearing.
        this.#met[b] = Math.max(0, whole[b] - masker[row + b])
        this.#earNoise[b] = Math.max(0, present[b] - intensity[row + b])
      }
      excitation(this.#met, noise)
      if (!this.#two) return
      const own = intensity.subarray(row, row + FILTER_COUNT)
      const won = this.#won[e]
      unmask(this.#own, this.#others, own, this.#earNoise, won)
      for (let b = 0; b < FILTER_COUNT; b++) noise[b] /= won[b]
    })
    this.#factorsBeside(pattern, row)
    return {
      signal,
      noise: this.#noise,
      won: this.#won,
      kFactors: this.#kFactors,
      covers: this.#othersCover,
      asNoise: this.#othersAsNoise,
    }
  }

  #addCover({ ears, tonal }: TrackPatterns, row: number): void {
    for (let b = 0; b < FILTER_COUNT; b++) {
      const covers = meanOfEars(ears, row + b)
      this.#covers[b] += covers
      this.#asNoise[b] += covers * kFactor(tonal[row + b])
    }
  }

  /** Thresholds beside several add up: each of the others counts with its own K. */
  #factorsBeside({ ears, tonal }: TrackPatterns, row: number): void {
    for (let b = 0; b < FILTER_COUNT; b++) {
      const own = meanOfEars(ears, row + b)
      const covers = this.#covers[b] - own
      const asNoise = this.#asNoise[b] - own * kFactor(tonal[row + b])
      // Rounding may leave a trace of the track itself.
      const isNothing = covers <= 1e-6 * this.#covers[b]
      this.#othersCover[b] = isNothing ? 0 : covers
      this.#othersAsNoise[b] = isNothing ? 0 : asNoise
      this.#kFactors[b] = kTogether(this.#othersCover[b], this.#othersAsNoise[b])
    }
  }

  #partsBeside(pattern: TrackPatterns, row: number): void {
    this.#own.all.fill(0)
    this.#own.apart.fill(0)
    addParts(pattern, row, this.#own)
    for (let b = 0; b < FILTER_COUNT; b++) {
      this.#others.all[b] = Math.max(0, this.#all.all[b] - this.#own.all[b])
      this.#others.apart[b] = Math.max(0, this.#all.apart[b] - this.#own.apart[b])
    }
  }
}

/** Factor on K beside several tracks; see {@link Company.beside}. */
export function kTogether(covers: number, asNoise: number): number {
  return covers > 0 ? Math.max(LEAST_K_FACTOR, Math.min(1, asNoise / covers)) : 1
}

const LEAST_K_FACTOR = kFactor(1)

function meanOfEars(ears: TrackPatterns['ears'], at: number): number {
  const [first, second] = ears
  return second ? (first.spread[at] + second.spread[at]) / 2 : first.spread[at]
}

function emptyParts(): EarParts {
  return { all: new Float64Array(FILTER_COUNT), apart: new Float64Array(FILTER_COUNT) }
}

const earOf = ({ ears }: TrackPatterns, e: number) => ears[e] ?? ears[0]

function addParts({ ears, sides, listening }: TrackPatterns, row: number, to: EarParts): void {
  const [left, right = left] = ears
  for (let b = 0; b < FILTER_COUNT; b++) {
    const all = (left.intensity[row + b] + right.intensity[row + b]) / 2
    to.all[b] += all
    if (sides) to.apart[b] += all * sides[row + b] * differenceAtEars(listening, b)
  }
}

const lostPerNoise = new Float64Array(FILTER_COUNT)
const weights = new Float64Array(FILTER_COUNT)
/** What each masker brings, row by row of filters. */
let brought = new Float64Array(0)

function account(
  sums: MaskingSums,
  patterns: readonly TrackPatterns[],
  t: number,
  when: { readonly m: number; readonly slot: number; readonly seconds: number },
  heard: {
    readonly signal: readonly Float32Array[]
    readonly noise: readonly Float64Array[]
    readonly kFactors: Float64Array
  },
  partial: Float64Array,
): void {
  const { m, slot, seconds } = when
  const { alone, weights: counts } = patterns[t]
  const row = t * FILTER_COUNT
  const at = m * FILTER_COUNT
  sums.time[t] += counts[m]
  weights.fill(0)
  if (brought.length < patterns.length * FILTER_COUNT) {
    brought = new Float64Array(patterns.length * FILTER_COUNT)
  }
  splitEars(patterns[t], at)
  for (let o = 0; o < patterns.length; o++) {
    if (o === t || patterns[o].aloneSone[m] === 0) continue
    takeSpread(patterns[o], at, o * FILTER_COUNT)
  }
  const scale = ERB_STEP * counts[m]
  for (let b = 0; b < FILTER_COUNT; b++) {
    const own = alone[at + b]
    const left = partial[b]
    const lost = own > left ? (own - left) * scale : 0
    sums.alone[row + b] += own * scale
    sums.lost[row + b] += lost
    lostPerNoise[b] = weights[b] > 0 ? lost / weights[b] : 0
    if (left >= CROWDED_SHARE * own) continue
    if (Beside.isHidden(heard.signal, heard.noise, heard.kFactors, b))
      sums.hidden[row + b] += own * scale
    else sums.crowded[row + b] += own * scale
  }
  for (let o = 0; o < patterns.length; o++) {
    const other = patterns[o]
    if (o === t || other.aloneSone[m] === 0) continue
    const pair = t * sums.tracks + o
    const sum = share(o * FILTER_COUNT, sums.lostTo, pair * FILTER_COUNT)
    if (other.sides) shareOfSides(o * FILTER_COUNT, other.sides, at, sums.lostToSides, row)
    // Here all of the time counts, as the slots divide it.
    sums.lostWhen[pair * sums.slots + slot] += counts[m] > 0 ? (sum * seconds) / counts[m] : 0
  }
}

/** Adds a masker's share of what is lost. @returns the sum of it. */
function share(from: number, to: Float64Array, row: number): number {
  let sum = 0
  for (let b = 0; b < FILTER_COUNT; b++) {
    const lost = lostPerNoise[b] * brought[from + b]
    to[row + b] += lost
    sum += lost
  }
  return sum
}

/** The same as far as it falls to the masker's sides. */
function shareOfSides(
  from: number,
  sides: Float32Array,
  at: number,
  to: Float64Array,
  row: number,
): void {
  for (let b = 0; b < FILTER_COUNT; b++) {
    to[row + b] += lostPerNoise[b] * brought[from + b] * sides[at + b]
  }
}

/** Part of what is heard of the target that each ear hears; together 1, or 0 where nothing is heard. */
const atLeft = new Float64Array(FILTER_COUNT)
const atRight = new Float64Array(FILTER_COUNT)

function splitEars({ ears }: TrackPatterns, at: number): void {
  const [left, right = left] = ears
  for (let b = 0; b < FILTER_COUNT; b++) {
    const all = left.excitation[at + b] + right.excitation[at + b]
    atLeft[b] = all > 0 ? left.excitation[at + b] / all : 0
    atRight[b] = all > 0 ? right.excitation[at + b] / all : 0
  }
}

/** What a masker brings to the ears, each counted as the target is heard there; and the sum over maskers. */
function takeSpread({ ears }: TrackPatterns, at: number, row: number): void {
  const [{ spread: left }, { spread: right } = ears[0]] = ears
  for (let b = 0; b < FILTER_COUNT; b++) {
    const value = left[at + b] * atLeft[b] + right[at + b] * atRight[b]
    brought[row + b] = value
    weights[b] += value
  }
}

/** Places where several tracks are strong at once and none is clear. */
function accountPile(
  sums: MaskingSums,
  patterns: readonly TrackPatterns[],
  m: number,
  sounding: readonly number[],
  partial: readonly Float64Array[],
): void {
  const at = m * FILTER_COUNT
  for (let b = 0; b < FILTER_COUNT; b++) {
    let strongest = PILE_FLOOR
    for (const t of sounding) strongest = Math.max(strongest, patterns[t].alone[at + b])
    let strong = 0
    let clear = false
    for (const t of sounding) {
      const own = patterns[t].alone[at + b]
      if (own < STRONG_SHARE * strongest) continue
      strong++
      if (partial[t][b] > CLEAR_SHARE * own) clear = true
    }
    if (clear || strong < PILE) continue
    for (const t of sounding) {
      const own = patterns[t].alone[at + b]
      if (own < STRONG_SHARE * strongest) continue
      const lost = Math.max(0, own - partial[t][b])
      sums.piled[t * FILTER_COUNT + b] += lost * ERB_STEP * patterns[t].weights[m]
    }
  }
}

/**
 * How one track fares in the mix. Sones are means over the time in which it sounds, however seldom that is; tails and
 * silence do not dilute them.
 */
export interface TrackMasking {
  readonly aloneSone: number
  readonly inMixSone: number
  /** Share of its loudness that is heard in the mix, 0 to 1; 1 for a track that never sounds. */
  readonly audibleShare: number
  /** Parts of its loudness that lie under the masked threshold, that lose half and more, and that are heard well. */
  readonly hidden: number
  readonly crowded: number
  readonly clear: number
  /** Mean specific loudness per filter, alone and lost, in sone per filter. */
  readonly alone: Float64Array
  readonly lost: Float64Array
  readonly lostToSides: Float64Array
  /** The part of `alone` that is hidden or crowded there. */
  readonly covered: Float64Array
  /** Mean loudness lost per filter while the track is part of a pile-up. */
  readonly piled: Float64Array
}

/** What one masker takes from one target. */
export interface PairMasking {
  readonly target: number
  readonly masker: number
  readonly lostSone: number
  /** Per filter, in sone. */
  readonly lost: Float64Array
  /** Per slot of time, in sone: a mean over what was listened to of the slot. */
  readonly when: Float64Array
}

/** From sums of a track to its means. */
function scaleOf({ time }: MaskingSums, track: number): number {
  return time[track] > 0 ? 1 / time[track] : 0
}

/** Turns sums into figures per track. */
export function trackMasking(sums: MaskingSums, track: number): TrackMasking {
  const scale = scaleOf(sums, track)
  const row = (values: Float64Array) =>
    values.slice(track * FILTER_COUNT, (track + 1) * FILTER_COUNT).map((v) => v * scale)
  const alone = row(sums.alone)
  const lost = row(sums.lost)
  const [hidden, crowded] = [row(sums.hidden), row(sums.crowded)]
  const aloneSone = total(alone)
  const inMixSone = aloneSone - total(lost)
  const part = (sone: number) => (aloneSone > 0 ? sone / aloneSone : 0)
  const [hiddenPart, crowdedPart] = [part(total(hidden)), part(total(crowded))]
  return {
    aloneSone,
    inMixSone,
    audibleShare: aloneSone > 0 ? inMixSone / aloneSone : 1,
    hidden: hiddenPart,
    crowded: crowdedPart,
    clear: 1 - hiddenPart - crowdedPart,
    alone,
    lost,
    lostToSides: row(sums.lostToSides),
    covered: hidden.map((v, b) => v + crowded[b]),
    piled: row(sums.piled),
  }
}

/** Turns sums into figures for a pair. */
export function pairMasking(sums: MaskingSums, target: number, masker: number): PairMasking {
  const scale = scaleOf(sums, target)
  const pair = target * sums.tracks + masker
  const lost = sums.lostTo
    .slice(pair * FILTER_COUNT, (pair + 1) * FILTER_COUNT)
    .map((v) => v * scale)
  const when = sums.lostWhen
    .slice(pair * sums.slots, (pair + 1) * sums.slots)
    .map((v, slot) => (sums.slotHeard[slot] > 0 ? v / sums.slotHeard[slot] : 0))
  return { target, masker, lostSone: total(lost), lost, when }
}

function total(values: Float64Array): number {
  return values.reduce((a, b) => a + b, 0)
}

/** The filters of one ERB each, for reports: mean centre and sum of values. */
export function perErb(values: Float64Array): { hz: number; value: number }[] {
  const width = Math.round(1 / ERB_STEP)
  const out: { hz: number; value: number }[] = []
  for (let b = 0; b + width <= FILTER_COUNT; b += width) {
    let value = 0
    for (let i = b; i < b + width; i++) value += values[i]
    out.push({ hz: Math.sqrt(FILTER_HZ[b + 1] * FILTER_HZ[b + 2]), value })
  }
  return out
}
