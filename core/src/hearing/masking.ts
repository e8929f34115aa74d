import { Beside } from './beside'
import { Company } from './company'
import { ERB_STEP, FILTER_COUNT, FILTER_HZ } from './excitation'
import type { HeardMoments } from './heard-moments'
import type { Calibration } from './hearing-bands'
import { type TrackPatterns, trackPatterns } from './track-patterns'
import type { Listening } from './two-ears'

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
}

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
  const partial = new Float64Array(FILTER_COUNT)
  const beside = new Beside()
  for (let m = from; m < to; m++) {
    company.at(m)
    const { seconds } = patterns[0].moments
    const slot = slotAt(patterns[0], m, sums)
    sums.slotHeard[slot] += seconds[m]
    patterns.forEach((pattern, t) => {
      if (pattern.weights[m] === 0) return
      const met = company.beside(t)
      beside.partial(met.signal, met.noise, met.kFactors, partial)
      account(sums, patterns, t, { m, slot, seconds: seconds[m] }, met, partial)
    })
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

const lostPerNoise = new Float64Array(FILTER_COUNT)
/** What all maskers bring, and what of it comes by their sides. */
const weights = new Float64Array(FILTER_COUNT)
const bySides = new Float64Array(FILTER_COUNT)
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
  bySides.fill(0)
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
    sums.lostToSides[row + b] += lostPerNoise[b] * bySides[b]
    if (left >= CROWDED_SHARE * own) continue
    if (Beside.isHidden(heard.signal, heard.noise, heard.kFactors, b))
      sums.hidden[row + b] += own * scale
    else sums.crowded[row + b] += own * scale
  }
  for (let o = 0; o < patterns.length; o++) {
    if (o === t || patterns[o].aloneSone[m] === 0) continue
    const pair = t * sums.tracks + o
    const sum = share(o * FILTER_COUNT, sums.lostTo, pair * FILTER_COUNT)
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

/** What a masker brings to the ears, each counted as the target is heard there; and the sums over maskers. */
function takeSpread({ ears, sides }: TrackPatterns, at: number, row: number): void {
  const [{ spread: left }, { spread: right } = ears[0]] = ears
  for (let b = 0; b < FILTER_COUNT; b++) {
    const value = left[at + b] * atLeft[b] + right[at + b] * atRight[b]
    brought[row + b] = value
    weights[b] += value
  }
  if (!sides) return
  for (let b = 0; b < FILTER_COUNT; b++) bySides[b] += brought[row + b] * sides[at + b]
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
