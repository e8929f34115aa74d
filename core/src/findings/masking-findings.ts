import { magnitudeDb } from '../filters'
import {
  bandEdgeHz,
  type Calibration,
  FILTER_COUNT,
  FILTER_HZ,
  type HearingBands,
  type MaskingMode,
  type MaskingSums,
  type MaskingTrack,
  maskingFrames,
  maskPatterns,
  pairMasking,
  type TrackPatterns,
  trackMasking,
  trackPatterns,
} from '../hearing'
import type { EqBand } from '../session'

/** A place where one track covers the lead, with the cut that is proposed for it. */
export interface MaskingFinding {
  /** Index of the lead and of the covering track. */
  readonly lead: number
  readonly masker: number
  readonly hz: number
  readonly fromHz: number
  readonly toHz: number
  /** Loudness of the lead lost to this masker in this stretch, in sone. */
  readonly lostSone: number
  /** Share of the lead's loudness there that is lost, to all tracks together. */
  readonly lostShare: number
  readonly where: 'middle' | 'sides'
  readonly move: EqBand
  readonly predicted: HeardChange
}

/** Shares of loudness heard in the mix, 0 to 1, before and after a move. */
export interface HeardChange {
  readonly leadBefore: number
  readonly leadAfter: number
  readonly maskerBefore: number
  readonly maskerAfter: number
}

export interface MaskingProposalSettings {
  readonly calibration: Calibration
  readonly mode: MaskingMode
  readonly sampleRateHz: number
  /** At most this many findings. */
  readonly count: number
}

/** Losses under this part of the lead's loudness are not worth a move. */
const LEAST_SHARE = 0.008
/** Moves that bring the lead less than this share of its loudness cannot be heard. */
const LEAST_GAIN = 0.003
/** A stretch ends where the loss falls under this part of its peak. */
const EDGE_SHARE = 0.45
/** Widest stretch: 7 ERB; narrowest: 1.5 ERB, in quarter ERBs. */
const WIDEST = 28
const NARROWEST = 6
const CUTS_DB = [-2, -3, -4, -5.5] as const
/** The smallest cut that brings this part of what the deepest would bring is proposed. */
const ENOUGH = 0.6
/** Frames used to try moves out; the finding itself is measured on all. */
const TRIAL_FRAMES = 160
const MOST_PER_MASKER = 2

/**
 * The places where the lead loses most to one other track, worst first, each with a bell on that track.
 * Each cut is tried out on the measured bands and judged by the masking model.
 * @param sums masking of the same tracks over the whole passage.
 */
export function maskingFindings(
  tracks: readonly MaskingTrack[],
  sums: MaskingSums,
  lead: number,
  settings: MaskingProposalSettings,
): MaskingFinding[] {
  const places = worstPlaces(sums, lead).slice(0, settings.count)
  if (places.length === 0) return []
  const trial = makeTrial(tracks, settings)
  return places
    .map((place) => propose(place, trial, sums, lead, settings))
    .filter(({ predicted }) => predicted.leadAfter - predicted.leadBefore >= LEAST_GAIN)
}

interface Place {
  readonly masker: number
  readonly from: number
  readonly to: number
  readonly lostSone: number
  readonly lost: Float64Array
}

function worstPlaces(sums: MaskingSums, lead: number): Place[] {
  const { aloneSone } = trackMasking(sums, lead)
  const places: Place[] = []
  for (let masker = 0; masker < sums.tracks; masker++) {
    if (masker === lead) continue
    const lost = pairMasking(sums, lead, masker).lost
    const left = smooth(lost)
    for (let n = 0; n < MOST_PER_MASKER; n++) {
      const place = growFromPeak(left, lost, masker)
      if (place.lostSone < LEAST_SHARE * aloneSone) break
      places.push(place)
      left.fill(0, place.from, place.to)
    }
  }
  return places.sort((a, b) => b.lostSone - a.lostSone)
}

/** Mean over one ERB. */
function smooth(values: Float64Array): Float64Array {
  return values.map((_, i) => {
    let sum = 0
    for (let k = i - 2; k <= i + 2; k++) sum += values[k] ?? 0
    return sum / 5
  })
}

function growFromPeak(smoothed: Float64Array, lost: Float64Array, masker: number): Place {
  let peak = 0
  for (let b = 1; b < FILTER_COUNT; b++) if (smoothed[b] > smoothed[peak]) peak = b
  let from = peak
  let to = peak + 1
  const edge = smoothed[peak] * EDGE_SHARE
  while (to - from < WIDEST) {
    const below = from > 0 ? smoothed[from - 1] : 0
    const above = to < FILTER_COUNT ? smoothed[to] : 0
    if (Math.max(below, above) < edge && to - from >= NARROWEST) break
    if (below === 0 && above === 0) break
    if (below >= above) from--
    else to++
  }
  let lostSone = 0
  for (let b = from; b < to; b++) lostSone += lost[b]
  return { masker, from, to, lostSone, lost }
}

function propose(
  place: Place,
  trial: Trial,
  sums: MaskingSums,
  lead: number,
  settings: MaskingProposalSettings,
): MaskingFinding {
  const { masker, from, to, lostSone } = place
  const fromHz = bandEdgeHz(from)
  const toHz = bandEdgeHz(to)
  const hz = weightedCentre(place)
  const q = Math.min(4, Math.max(0.7, hz / (toHz - fromHz)))
  const { before } = trial
  const tried = CUTS_DB.map((db) => {
    const band = roundBand(hz, db, q)
    return { band, after: heardAfter(trial, masker, band, [lead, masker], settings) }
  })
  const most = tried[tried.length - 1].after[lead] - before[lead]
  const chosen =
    tried.find(({ after }) => after[lead] - before[lead] >= ENOUGH * most) ??
    tried[tried.length - 1]
  const whole = trackMasking(sums, lead)
  const sum = (values: Float64Array) => values.slice(from, to).reduce((a, b) => a + b, 0)
  return {
    lead,
    masker,
    hz: chosen.band.hz,
    fromHz,
    toHz,
    lostSone,
    lostShare: sum(whole.lost) / Math.max(1e-12, sum(whole.alone)),
    where: sum(whole.lostToSides) > 0.5 * sum(whole.lost) ? 'sides' : 'middle',
    move: chosen.band,
    predicted: {
      leadBefore: before[lead],
      leadAfter: chosen.after[lead],
      maskerBefore: before[masker],
      maskerAfter: chosen.after[masker],
    },
  }
}

function weightedCentre({ from, to, lost }: Place): number {
  let weight = 0
  let sum = 0
  for (let b = from; b < to; b++) {
    weight += lost[b]
    sum += lost[b] * Math.log(FILTER_HZ[b])
  }
  return Math.exp(sum / weight)
}

/** Values as an engineer would set them: three figures of frequency, tenths of Q. */
function roundBand(hz: number, db: number, q: number): EqBand {
  const step = 10 ** (Math.floor(Math.log10(hz)) - 2)
  return {
    type: 'bell',
    hz: Math.round(hz / step) * step,
    db,
    q: Math.round(q * 10) / 10,
    slopeDbPerOct: 12,
    channel: 'stereo',
  }
}

/** Measured bands as a filter would leave them. */
function filtered(bands: HearingBands, band: EqBand, sampleRateHz: number): HearingBands {
  const gains = magnitudeDb([band], FILTER_HZ, sampleRateHz).map((db) => 10 ** (db / 10))
  const apply = (values: Float32Array) => values.map((v, i) => v * gains[i % FILTER_COUNT])
  return { ...bands, mid: apply(bands.mid), side: apply(bands.side) }
}

/** Some frames of all tracks, with their excitation, on which moves are tried out. */
interface Trial {
  readonly tracks: readonly MaskingTrack[]
  readonly patterns: readonly TrackPatterns[]
  /** Share of each track that is heard before any move. */
  readonly before: readonly number[]
}

function makeTrial(tracks: readonly MaskingTrack[], settings: MaskingProposalSettings): Trial {
  const thin = thinOut(tracks)
  const frames = maskingFrames(thin)
  const patterns = thin.map((t) => trackPatterns(t, settings.calibration, settings.mode, 0, frames))
  return {
    tracks: thin,
    patterns,
    before: heard(
      patterns,
      thin.map((_, i) => i),
    ),
  }
}

/** Shares heard of the `targets` with a band on one track; only its excitation is made anew. */
function heardAfter(
  { tracks, patterns }: Trial,
  treated: number,
  band: EqBand,
  targets: readonly number[],
  { calibration, mode, sampleRateHz }: MaskingProposalSettings,
): number[] {
  const track = tracks[treated]
  const after = { ...track, bands: filtered(track.bands, band, sampleRateHz) }
  const changed = trackPatterns(after, calibration, mode, 0, patterns[treated].frames)
  return heard(patterns.with(treated, changed), targets)
}

/** Share that is heard of each of the `targets`. */
function heard(patterns: readonly TrackPatterns[], targets: readonly number[]): number[] {
  const sums = maskPatterns(patterns, targets)
  return patterns.map((_, i) => trackMasking(sums, i).audibleShare)
}

/** Every n-th frame, so that trying moves out stays quick on long passages. */
function thinOut(tracks: readonly MaskingTrack[]): MaskingTrack[] {
  const stride = Math.max(1, Math.ceil(maskingFrames(tracks) / TRIAL_FRAMES))
  if (stride === 1) return [...tracks]
  return tracks.map((track) => {
    const { bands } = track
    const frames = Math.ceil(bands.frames / stride)
    const pick = (values: Float32Array) => {
      const out = new Float32Array(frames * FILTER_COUNT)
      for (let f = 0; f < frames; f++) {
        const at = f * stride * FILTER_COUNT
        out.set(values.subarray(at, at + FILTER_COUNT), f * FILTER_COUNT)
      }
      return out
    }
    return { ...track, bands: { ...bands, frames, mid: pick(bands.mid), side: pick(bands.side) } }
  })
}
