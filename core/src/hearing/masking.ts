import { ERB_STEP, excitation, FILTER_COUNT, FILTER_HZ } from './excitation'
import { type Calibration, cochlearGains, type HearingBands } from './hearing-bands'
import { specificLoudness, specificPartialLoudness } from './specific-loudness'

/** One track as masking sees it: its measured bands, and the gain at which it stands in the mix. */
export interface MaskingTrack {
  readonly bands: HearingBands
  readonly gainDb: number
}

/** `stereo`: middle and sides together, as over two loudspeakers; `mono`: the fold to one. */
export type MaskingMode = 'stereo' | 'mono'

export const MASKING_MODEL =
  'Moore, Glasberg and Baer 1997: partial loudness of each track in the sum of the others'

/**
 * Sums over time of what {@link maskFrames} found, in sone·frames. Sums of parts of a passage add up,
 * so that workers can share one.
 */
export interface MaskingSums {
  readonly tracks: number
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
}

/** A track below this loudness does not sound; such frames do not count. */
const AUDIBLE_SONE = 0.003

export function emptySums(tracks: number): MaskingSums {
  return {
    tracks,
    activeFrames: new Float64Array(tracks),
    alone: new Float64Array(tracks * FILTER_COUNT),
    lost: new Float64Array(tracks * FILTER_COUNT),
    lostToSides: new Float64Array(tracks * FILTER_COUNT),
    lostTo: new Float64Array(tracks * tracks * FILTER_COUNT),
  }
}

export function addSums(total: MaskingSums, part: MaskingSums): void {
  const add = (a: Float64Array, b: Float64Array) => {
    for (let i = 0; i < a.length; i++) a[i] += b[i]
  }
  add(total.activeFrames, part.activeFrames)
  add(total.alone, part.alone)
  add(total.lost, part.lost)
  add(total.lostToSides, part.lostToSides)
  add(total.lostTo, part.lostTo)
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
  const patterns = tracks.map((track) => trackPatterns(track, calibration, mode, from, to))
  return maskPatterns(
    patterns,
    tracks.map((_, i) => i),
  )
}

/** {@link maskFrames} on patterns that are there already; the sums of tracks that are no target stay zero. */
export function maskPatterns(
  tracks: readonly TrackPatterns[],
  targets: readonly number[],
): MaskingSums {
  const sums = emptySums(tracks.length)
  const frames = tracks.reduce((most, t) => Math.max(most, t.frames), 0)
  const all = new Float64Array(FILTER_COUNT)
  const noise = new Float64Array(FILTER_COUNT)
  const alone = new Float64Array(FILTER_COUNT)
  const partial = new Float64Array(FILTER_COUNT)
  for (let frame = 0; frame < frames; frame++) {
    const at = frame * FILTER_COUNT
    const patterns = tracks.map((t) => t.excitation.subarray(at, at + FILTER_COUNT))
    const sides = tracks.map((t) => t.sides.subarray(at, at + FILTER_COUNT))
    sumOf(patterns, all)
    for (const t of targets) {
      specificLoudness(patterns[t], alone)
      let sone = 0
      for (let b = 0; b < FILTER_COUNT; b++) sone += alone[b]
      if (sone * ERB_STEP < AUDIBLE_SONE) continue
      sums.activeFrames[t]++
      takeAway(all, patterns[t], noise)
      specificPartialLoudness(patterns[t], noise, partial)
      account(sums, t, patterns, sides, noise, alone, partial)
    }
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
    if (m !== t) share(sums, (t * sums.tracks + m) * FILTER_COUNT, row, patterns[m], sides[m])
  }
}

const lostPerNoise = new Float64Array(FILTER_COUNT)

/** The part of a loss that falls to one masker. */
function share(
  sums: MaskingSums,
  pairRow: number,
  targetRow: number,
  pattern: Float64Array,
  sides: Float32Array,
): void {
  for (let b = 0; b < FILTER_COUNT; b++) {
    const lost = lostPerNoise[b] * pattern[b]
    sums.lostTo[pairRow + b] += lost
    sums.lostToSides[targetRow + b] += lost * sides[b]
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
}

/** What one masker takes from one target. */
export interface PairMasking {
  readonly target: number
  readonly masker: number
  readonly lostSone: number
  /** Per filter, in sone. */
  readonly lost: Float64Array
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
  }
}

/** Turns sums into figures for a pair. */
export function pairMasking(sums: MaskingSums, target: number, masker: number): PairMasking {
  const scale = 1 / Math.max(1, sums.activeFrames[target])
  const at = (target * sums.tracks + masker) * FILTER_COUNT
  const lost = sums.lostTo.slice(at, at + FILTER_COUNT).map((v) => v * scale)
  return { target, masker, lostSone: total(lost), lost }
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
