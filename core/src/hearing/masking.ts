import { ERB_STEP, excitation, FILTER_COUNT, FILTER_HZ } from './excitation'
import { type Calibration, cochlearGains, type HearingBands } from './hearing-bands'
import { specificLoudness, specificPartialLoudness, totalSone } from './specific-loudness'

/** One track as masking sees it: its measured bands, and the gain at which it stands in the mix. */
export interface MaskingTrack {
  readonly bands: HearingBands
  readonly gainDb: number
}

/** `stereo`: middle and sides together, as over two loudspeakers; `mono`: the fold to one. */
export type MaskingMode = 'stereo' | 'mono'

export const MASKING_MODEL =
  'Moore, Glasberg and Baer 1997: partial loudness of each track in the sum of the others'

/** Frames of one slot of time: losses are kept per slot, so that one sees when they happen. */
export const SLOT_FRAMES = 24

/**
 * Sums over time of what {@link maskFrames} found, in sone·frames. Sums of parts of a passage add up,
 * so that workers can share one.
 */
export interface MaskingSums {
  readonly tracks: number
  /** Slots of time in the whole passage. */
  readonly slots: number
  /** Per track: frames in which it sounds. */
  readonly activeFrames: Float64Array
  /** Per track and filter (`tracks × FILTER_COUNT`): loudness alone. */
  readonly alone: Float64Array
  /** Per track and filter: loudness that is lost in the mix. */
  readonly lost: Float64Array
  /** Per track and filter: the part of `lost` that falls to maskers' sides. */
  readonly lostToSides: Float64Array
  /** Per target, masker and filter (`tracks × tracks × FILTER_COUNT`): loudness of the target lost to the masker. */
  readonly lostTo: Float64Array
  /** Per target, masker and slot (`tracks × tracks × slots`): the same, over time. */
  readonly lostWhen: Float64Array
  /** Per track and filter: loudness it loses while it is one of several that crowd the place. */
  readonly crowded: Float64Array
}

/** Tracks crowd a place when at least this many are strong there and none of them is clear. */
const CROWD = 3
/** A track is strong where it has this part of the loudest track's specific loudness, and clear from this share left. */
const STRONG_SHARE = 0.35
const CLEAR_SHARE = 0.45
/** Specific loudness under this (sone per ERB) is too soft to crowd anything. */
const CROWD_FLOOR = 0.1

/** A track below this loudness does not sound; such frames do not count. */
const AUDIBLE_SONE = 0.003

export function emptySums(tracks: number, frames: number): MaskingSums {
  const slots = Math.max(1, Math.ceil(frames / SLOT_FRAMES))
  return {
    tracks,
    slots,
    activeFrames: new Float64Array(tracks),
    alone: new Float64Array(tracks * FILTER_COUNT),
    lost: new Float64Array(tracks * FILTER_COUNT),
    lostToSides: new Float64Array(tracks * FILTER_COUNT),
    lostTo: new Float64Array(tracks * tracks * FILTER_COUNT),
    lostWhen: new Float64Array(tracks * tracks * slots),
    crowded: new Float64Array(tracks * FILTER_COUNT),
  }
}

/** Adds the sums of a part that begins at `fromFrame`, a multiple of {@link SLOT_FRAMES}. */
export function addSums(total: MaskingSums, part: MaskingSums, fromFrame: number): void {
  const add = (a: Float64Array, b: Float64Array) => {
    for (let i = 0; i < a.length; i++) a[i] += b[i]
  }
  add(total.activeFrames, part.activeFrames)
  add(total.alone, part.alone)
  add(total.lost, part.lost)
  add(total.lostToSides, part.lostToSides)
  add(total.lostTo, part.lostTo)
  add(total.crowded, part.crowded)
  const firstSlot = Math.floor(fromFrame / SLOT_FRAMES)
  for (let pair = 0; pair < part.tracks ** 2; pair++) {
    for (let slot = 0; slot < part.slots && firstSlot + slot < total.slots; slot++) {
      total.lostWhen[pair * total.slots + firstSlot + slot] +=
        part.lostWhen[pair * part.slots + slot]
    }
  }
}

/** Excitation of one track at its level in the mix, frame by frame. */
export interface TrackPatterns {
  readonly frames: number
  /** `frames × FILTER_COUNT`, relative to 0 dB SPL. */
  readonly excitation: Float64Array
  /** Share of each band's power that lies in the sides, `frames × FILTER_COUNT`. */
  readonly sides: Float32Array
}

/** Excitation patterns of a track over frames `from` to `to`; beyond its end it is silent. */
export function trackPatterns(
  { bands, gainDb }: MaskingTrack,
  calibration: Calibration,
  mode: MaskingMode,
  from: number,
  to: number,
): TrackPatterns {
  const frames = to - from
  const out = {
    frames,
    excitation: new Float64Array(frames * FILTER_COUNT),
    sides: new Float32Array(frames * FILTER_COUNT),
  }
  const cochlea = cochlearGains(calibration)
  const gain = 10 ** (gainDb / 10)
  const intensity = new Float64Array(FILTER_COUNT)
  for (let frame = 0; frame < Math.min(frames, bands.frames - from); frame++) {
    const at = (from + frame) * FILTER_COUNT
    const into = frame * FILTER_COUNT
    for (let b = 0; b < FILTER_COUNT; b++) {
      const mid = bands.mid[at + b]
      const side = mode === 'stereo' ? bands.side[at + b] : 0
      intensity[b] = (mid + side) * gain * cochlea[b]
      out.sides[into + b] = side > 0 ? side / (mid + side) : 0
    }
    excitation(intensity, out.excitation.subarray(into, into + FILTER_COUNT))
  }
  return out
}

/**
 * Measures over frames `from` to `to` how much of each track's loudness is lost beside the others, per
 * auditory filter, and to whom. The noise against a track is the summed excitation of the others; the
 * loss is shared among them in proportion to their excitation, so that shares add up.
 */
export function maskFrames(
  tracks: readonly MaskingTrack[],
  calibration: Calibration,
  mode: MaskingMode,
  from: number,
  to: number,
): MaskingSums {
  return maskPatterns(tracks.map((track) => trackPatterns(track, calibration, mode, from, to)))
}

/** Frames `from` to `to` of patterns, as views; what lies beyond their end is silent. */
export function slicePatterns(
  { frames, excitation: e, sides }: TrackPatterns,
  from: number,
  to: number,
): TrackPatterns {
  const count = Math.max(0, Math.min(frames, to) - from)
  const [first, last] = [from * FILTER_COUNT, (from + count) * FILTER_COUNT]
  if (count === to - from) {
    return {
      frames: count,
      excitation: e.subarray(first, last),
      sides: sides.subarray(first, last),
    }
  }
  const out = {
    frames: to - from,
    excitation: new Float64Array((to - from) * FILTER_COUNT),
    sides: new Float32Array((to - from) * FILTER_COUNT),
  }
  out.excitation.set(e.subarray(first, last))
  out.sides.set(sides.subarray(first, last))
  return out
}

/** {@link maskFrames} on patterns that are there already. */
export function maskPatterns(tracks: readonly TrackPatterns[]): MaskingSums {
  const frames = tracks.reduce((most, t) => Math.max(most, t.frames), 0)
  const sums = emptySums(tracks.length, frames)
  const all = new Float64Array(FILTER_COUNT)
  const noise = new Float64Array(FILTER_COUNT)
  const alone = tracks.map(() => new Float64Array(FILTER_COUNT))
  const partial = tracks.map(() => new Float64Array(FILTER_COUNT))
  for (let frame = 0; frame < frames; frame++) {
    const at = frame * FILTER_COUNT
    const patterns = tracks.map((t) => t.excitation.subarray(at, at + FILTER_COUNT))
    const sides = tracks.map((t) => t.sides.subarray(at, at + FILTER_COUNT))
    sumOf(patterns, all)
    const sounding: number[] = []
    for (let t = 0; t < tracks.length; t++) {
      specificLoudness(patterns[t], alone[t])
      if (totalSone(alone[t]) < AUDIBLE_SONE) continue
      sounding.push(t)
      sums.activeFrames[t]++
      takeAway(all, patterns[t], noise)
      specificPartialLoudness(patterns[t], noise, partial[t])
      const slot = Math.floor(frame / SLOT_FRAMES)
      account(sums, t, slot, patterns, sides, noise, alone[t], partial[t])
    }
    if (sounding.length >= CROWD) accountCrowd(sums, sounding, alone, partial)
  }
  return sums
}

function sumOf(patterns: readonly Float64Array[], out: Float64Array): void {
  out.fill(0)
  for (const pattern of patterns) {
    for (let b = 0; b < FILTER_COUNT; b++) out[b] += pattern[b]
  }
}

/** What the others make; rounding may leave a trace of the track itself, which is far below hearing. */
function takeAway(all: Float64Array, own: Float64Array, out: Float64Array): void {
  for (let b = 0; b < FILTER_COUNT; b++) out[b] = Math.max(0, all[b] - own[b])
}

function account(
  sums: MaskingSums,
  t: number,
  slot: number,
  patterns: readonly Float64Array[],
  sides: readonly Float32Array[],
  noise: Float64Array,
  alone: Float64Array,
  partial: Float64Array,
): void {
  const row = t * FILTER_COUNT
  for (let b = 0; b < FILTER_COUNT; b++) {
    const lost = alone[b] > partial[b] ? (alone[b] - partial[b]) * ERB_STEP : 0
    sums.alone[row + b] += alone[b] * ERB_STEP
    sums.lost[row + b] += lost
    lostPerNoise[b] = noise[b] > 0 ? lost / noise[b] : 0
  }
  for (let m = 0; m < sums.tracks; m++) {
    if (m === t) continue
    const pair = t * sums.tracks + m
    const lost = share(sums, pair * FILTER_COUNT, row, patterns[m], sides[m])
    sums.lostWhen[pair * sums.slots + slot] += lost
  }
}

const lostPerNoise = new Float64Array(FILTER_COUNT)

/** Accounts for the part of a loss that falls to one masker, and gives its sum. */
function share(
  sums: MaskingSums,
  pairRow: number,
  targetRow: number,
  pattern: Float64Array,
  sides: Float32Array,
): number {
  let sum = 0
  for (let b = 0; b < FILTER_COUNT; b++) {
    const lost = lostPerNoise[b] * pattern[b]
    sums.lostTo[pairRow + b] += lost
    sums.lostToSides[targetRow + b] += lost * sides[b]
    sum += lost
  }
  return sum
}

/** Pile-up: places where several tracks are strong at once and none is clear. */
function accountCrowd(
  sums: MaskingSums,
  sounding: readonly number[],
  alone: readonly Float64Array[],
  partial: readonly Float64Array[],
): void {
  for (let b = 0; b < FILTER_COUNT; b++) {
    let strongest = CROWD_FLOOR
    for (const t of sounding) if (alone[t][b] > strongest) strongest = alone[t][b]
    let strong = 0
    let clear = false
    for (const t of sounding) {
      if (alone[t][b] < STRONG_SHARE * strongest) continue
      strong++
      if (partial[t][b] > CLEAR_SHARE * alone[t][b]) clear = true
    }
    if (clear || strong < CROWD) continue
    for (const t of sounding) {
      if (alone[t][b] < STRONG_SHARE * strongest) continue
      sums.crowded[t * FILTER_COUNT + b] += (alone[t][b] - partial[t][b]) * ERB_STEP
    }
  }
}

/** How one track fares in the mix, over the frames in which it sounds. Sones are means over those frames. */
export interface TrackMasking {
  readonly aloneSone: number
  readonly inMixSone: number
  /** Share of its loudness that is heard in the mix, 0 to 1; 1 for a track that never sounds. */
  readonly audibleShare: number
  /** Mean specific loudness per filter, alone and lost, in sone per filter. */
  readonly alone: Float64Array
  readonly lost: Float64Array
  readonly lostToSides: Float64Array
  /** Mean loudness lost per filter while the track is part of a pile-up. */
  readonly crowded: Float64Array
}

/** What one masker takes from one target. */
export interface PairMasking {
  readonly target: number
  readonly masker: number
  readonly lostSone: number
  /** Per filter, in sone. */
  readonly lost: Float64Array
  /** Per slot of time, in sone: a mean over the slot. */
  readonly when: Float64Array
}

/** Turns sums into figures per track. */
export function trackMasking(sums: MaskingSums, track: number): TrackMasking {
  const scale = 1 / Math.max(1, sums.activeFrames[track])
  const row = (values: Float64Array) =>
    values.slice(track * FILTER_COUNT, (track + 1) * FILTER_COUNT).map((v) => v * scale)
  const alone = row(sums.alone)
  const lost = row(sums.lost)
  const aloneSone = total(alone)
  const inMixSone = aloneSone - total(lost)
  return {
    aloneSone,
    inMixSone,
    audibleShare: aloneSone > 0 ? inMixSone / aloneSone : 1,
    alone,
    lost,
    lostToSides: row(sums.lostToSides),
    crowded: row(sums.crowded),
  }
}

/** Turns sums into figures for a pair. */
export function pairMasking(sums: MaskingSums, target: number, masker: number): PairMasking {
  const scale = 1 / Math.max(1, sums.activeFrames[target])
  const at = (target * sums.tracks + masker) * FILTER_COUNT
  const lost = sums.lostTo.slice(at, at + FILTER_COUNT).map((v) => v * scale)
  const slotAt = (target * sums.tracks + masker) * sums.slots
  const when = sums.lostWhen.slice(slotAt, slotAt + sums.slots).map((v) => v / SLOT_FRAMES)
  return { target, masker, lostSone: total(lost), lost, when }
}

/** Number of frames over which tracks are compared: the longest. */
export function maskingFrames(tracks: readonly MaskingTrack[]): number {
  return tracks.reduce((most, t) => Math.max(most, t.bands.frames), 0)
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
