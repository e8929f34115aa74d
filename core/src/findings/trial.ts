import type { EqBand } from '../filters'
import {
  type Calibration,
  changeExcitation,
  cochlearGains,
  excitation,
  FILTER_COUNT,
  FILTER_HZ,
  type HearingBands,
  type MaskingMode,
  type MaskingTrack,
  maskingFrames,
  specificLoudness,
  specificPartialLoudness,
  totalSone,
} from '../hearing'
import { kWeightingDb } from '../loudness'
import { bandPowerGains } from './band-gains'

/** How tracks are heard while moves are tried out. */
export interface TrialSettings {
  readonly calibration: Calibration
  readonly mode: MaskingMode
  readonly sampleRateHz: number
  /** At most about this many frames of the passage are used. */
  readonly frames?: number
}

/** What a move changes, per track: sones of its loudness in the mix, as means over the frames in which it sounds. */
export interface Effect {
  readonly inMixSone: Float64Array
  /** Change of the treated track's loudness alone. */
  readonly aloneSone: number
}

const TRIAL_FRAMES = 96
/** A track below this loudness does not sound; such frames do not count. */
const AUDIBLE_SONE = 0.003
/** Gains of power nearer to 1 than this change nothing. */
const UNCHANGED_SHARE = 0.01
/** Filters below and above a changed band that hear the change: skirts fall steeply down and slowly up. */
const REACH_DOWN = 8
const REACH_UP = 28

interface TrialTrack {
  readonly mid: Float32Array
  readonly side: Float32Array
  excitation: Float64Array
  alone: Float64Array
  partial: Float64Array
  active: Uint8Array
  /** K-weighted power when the trial began. */
  readonly power: number
}

/**
 * Some frames of all tracks, evenly spaced over the passage, on which moves are tried out: each move is
 * run through the masking model, and only what it touches is computed again.
 */
export class Trial {
  readonly #settings: TrialSettings
  readonly #tracks: TrialTrack[]
  readonly #all: Float64Array
  readonly #everybody: readonly number[]
  readonly #cochlea: Float64Array
  readonly stride: number
  readonly frames: number

  constructor(tracks: readonly MaskingTrack[], settings: TrialSettings) {
    this.#settings = settings
    const whole = maskingFrames(tracks)
    this.stride = Math.max(1, Math.round(whole / (settings.frames ?? TRIAL_FRAMES)))
    this.frames = Math.max(1, Math.ceil(whole / this.stride))
    this.#cochlea = cochlearGains(settings.calibration)
    this.#tracks = tracks.map((track) => this.#makeTrack(track))
    this.#everybody = tracks.map((_, t) => t)
    this.#all = new Float64Array(this.frames * FILTER_COUNT)
    for (const { excitation: e } of this.#tracks) addTo(this.#all, e)
    for (const track of this.#tracks) this.#listen(track)
  }

  get sampleRateHz(): number {
    return this.#settings.sampleRateHz
  }

  /** Loudness of each track as it stands: alone, and what is left of it in the mix. */
  get loudness(): readonly { readonly aloneSone: number; readonly inMixSone: number }[] {
    return this.#tracks.map((track) => {
      let alone = 0
      let partial = 0
      for (let i = 0; i < track.alone.length; i++) {
        if (track.active[Math.floor(i / FILTER_COUNT)] === 0) continue
        alone += track.alone[i]
        partial += track.partial[i]
      }
      const scale = SONE_PER_SUM / Math.max(1, activeCount(track))
      return { aloneSone: alone * scale, inMixSone: partial * scale }
    })
  }

  /**
   * What bands on a track would change, and a gain behind them.
   * @param of the tracks that are asked about; of others the effect says 0.
   */
  tryMove(track: number, bands: readonly EqBand[], gainDb = 0, of = this.#everybody): Effect {
    const { changed, from, to } = this.#treat(track, bands, gainDb)
    return this.#compare(track, changed, from, to, of)
  }

  /** What it would change if a track were measured as `bands` instead, at its level in the mix. */
  tryBands(track: number, treated: MaskingTrack): Effect {
    const changed = this.#makeTrack(treated).excitation
    return this.#compare(track, changed, 0, FILTER_COUNT, this.#everybody)
  }

  /**
   * Loudness that the whole mix gains or loses, filter by filter added up without regard to sign, when
   * its power changes by `gains`. In sone.
   */
  wholeChange(gains: Float64Array): number {
    const changed = new Float64Array(FILTER_COUNT)
    const [before, after] = [new Float64Array(FILTER_COUNT), new Float64Array(FILTER_COUNT)]
    let sum = 0
    for (let f = 0; f < this.frames; f++) {
      const all = this.#all.subarray(f * FILTER_COUNT, (f + 1) * FILTER_COUNT)
      for (let b = 0; b < FILTER_COUNT; b++) changed[b] = all[b] * gains[b]
      specificLoudness(all, before)
      specificLoudness(changed, after)
      for (let b = 0; b < FILTER_COUNT; b++) sum += Math.abs(after[b] - before[b])
    }
    return (sum * SONE_PER_SUM) / this.frames
  }

  /**
   * Loudness alone of some tracks together, with their power changed by `gains`: a mean over the frames in
   * which any of them sounds. In sone.
   */
  together(tracks: readonly number[], gains: Float64Array): number {
    const sum = new Float64Array(FILTER_COUNT)
    const loudness = new Float64Array(FILTER_COUNT)
    let sone = 0
    let frames = 0
    for (let f = 0; f < this.frames; f++) {
      if (!tracks.some((t) => this.#tracks[t].active[f])) continue
      frames++
      sum.fill(0)
      for (const t of tracks) {
        const pattern = this.#tracks[t].excitation
        for (let b = 0; b < FILTER_COUNT; b++) sum[b] += pattern[f * FILTER_COUNT + b] * gains[b]
      }
      sone += totalSone(specificLoudness(sum, loudness))
    }
    return sone / Math.max(1, frames)
  }

  /** Loudness alone of what lies in the sides of a track below a filter, as a mean over its frames. In sone. */
  sidesAlone(track: number, below: number): number {
    const { side, active } = this.#tracks[track]
    const only = side.map((v, i) => (i % FILTER_COUNT < below ? v : 0))
    const pattern = this.#excite(new Float32Array(side.length), only)
    const loudness = new Float64Array(FILTER_COUNT)
    let sone = 0
    let frames = 0
    for (let f = 0; f < this.frames; f++) {
      if (!active[f]) continue
      frames++
      const at = f * FILTER_COUNT
      sone += totalSone(specificLoudness(pattern.subarray(at, at + FILTER_COUNT), loudness))
    }
    return sone / Math.max(1, frames)
  }

  /** K-weighted level change of a track since the trial began, in LU, with `bands` put on it besides. */
  levelSinceStart(track: number, bands: readonly EqBand[] = []): number {
    const { mid, side, power } = this.#tracks[track]
    const rate = this.#settings.sampleRateHz
    const midGain = bandPowerGains(bands, 'mid', rate)
    const sideGain = bandPowerGains(bands, 'side', rate)
    const now = weightedPower(mid, midGain) + weightedPower(side, sideGain)
    return power > 0 ? 10 * Math.log10(now / power) : 0
  }

  /** Makes a move: later ones are tried out on top of it. */
  apply(track: number, bands: readonly EqBand[], gainDb = 0): void {
    const own = this.#tracks[track]
    const { changed, mid, side } = this.#treat(track, bands, gainDb)
    own.mid.set(mid)
    own.side.set(side)
    for (let i = 0; i < changed.length; i++) {
      this.#all[i] = Math.max(0, this.#all[i] + changed[i] - own.excitation[i])
    }
    own.excitation = changed
    for (const each of this.#tracks) this.#listen(each)
  }

  #makeTrack({ bands, gainDb }: MaskingTrack): TrialTrack {
    const gain = 10 ** (gainDb / 10)
    const mid = this.#thinOut(bands, bands.mid, gain)
    const side = this.#thinOut(bands, bands.side, gain)
    const none = new Float64Array(0)
    return {
      mid,
      side,
      excitation: this.#excite(mid, side),
      alone: none,
      partial: none,
      active: new Uint8Array(this.frames),
      power: weightedPower(mid, unchanged) + weightedPower(side, unchanged),
    }
  }

  #thinOut(bands: HearingBands, values: Float32Array, gain: number): Float32Array {
    const out = new Float32Array(this.frames * FILTER_COUNT)
    for (let f = 0; f < this.frames && f * this.stride < bands.frames; f++) {
      const at = f * this.stride * FILTER_COUNT
      for (let b = 0; b < FILTER_COUNT; b++) out[f * FILTER_COUNT + b] = values[at + b] * gain
    }
    return out
  }

  #excite(mid: Float32Array, side: Float32Array): Float64Array {
    const out = new Float64Array(mid.length)
    const intensity = new Float64Array(FILTER_COUNT)
    for (let at = 0; at < mid.length; at += FILTER_COUNT) {
      this.#intensity(mid, side, at, intensity)
      excitation(intensity, out.subarray(at, at + FILTER_COUNT))
    }
    return out
  }

  /** A track's bands and excitation with filters on it, and the span of filters that hear them. */
  #treat(track: number, bands: readonly EqBand[], gainDb: number) {
    const { mid, side } = this.#tracks[track]
    const rate = this.#settings.sampleRateHz
    const behind = 10 ** (gainDb / 10)
    const midGain = bandPowerGains(bands, 'mid', rate).map((g) => g * behind)
    const sideGain = bandPowerGains(bands, 'side', rate).map((g) => g * behind)
    const touched = (b: number) =>
      Math.abs(midGain[b] - 1) + Math.abs(sideGain[b] - 1) > UNCHANGED_SHARE
    let from = 0
    while (from < FILTER_COUNT && !touched(from)) from++
    let to = FILTER_COUNT
    while (to > from && !touched(to - 1)) to--
    const treated = { mid: mid.slice(), side: side.slice() }
    for (let at = 0; at < mid.length; at += FILTER_COUNT) {
      scaleRange(treated.mid, midGain, at, from, to)
      scaleRange(treated.side, sideGain, at, from, to)
    }
    return {
      ...treated,
      changed: this.#excitePart(this.#tracks[track], treated, from, to),
      from: Math.max(0, from - REACH_DOWN),
      to: Math.min(FILTER_COUNT, to + REACH_UP),
    }
  }

  /** The excitation of a track when only its bands `from` to `to` change. */
  #excitePart(
    { mid, side, excitation: known }: TrialTrack,
    treated: { readonly mid: Float32Array; readonly side: Float32Array },
    from: number,
    to: number,
  ): Float64Array {
    const out = known.slice()
    const before = new Float64Array(FILTER_COUNT)
    const after = new Float64Array(FILTER_COUNT)
    for (let at = 0; at < mid.length; at += FILTER_COUNT) {
      this.#intensity(mid, side, at, before)
      this.#intensity(treated.mid, treated.side, at, after)
      changeExcitation(out.subarray(at, at + FILTER_COUNT), before, after, from, to)
    }
    return out
  }

  #intensity(mid: Float32Array, side: Float32Array, at: number, out: Float64Array): void {
    const sides = this.#settings.mode === 'stereo' ? 1 : 0
    for (let b = 0; b < FILTER_COUNT; b++) {
      out[b] = (mid[at + b] + sides * side[at + b]) * this.#cochlea[b]
    }
  }

  #listen(track: TrialTrack): void {
    const size = this.frames * FILTER_COUNT
    track.alone = new Float64Array(size)
    track.partial = new Float64Array(size)
    const noise = new Float64Array(FILTER_COUNT)
    for (let f = 0; f < this.frames; f++) {
      const at = f * FILTER_COUNT
      const own = track.excitation.subarray(at, at + FILTER_COUNT)
      const alone = specificLoudness(own, track.alone.subarray(at, at + FILTER_COUNT))
      track.active[f] = totalSone(alone) >= AUDIBLE_SONE ? 1 : 0
      if (track.active[f] === 0) continue
      difference(this.#all.subarray(at, at + FILTER_COUNT), own, noise)
      specificPartialLoudness(own, noise, track.partial.subarray(at, at + FILTER_COUNT))
    }
  }

  #compare(
    track: number,
    changed: Float64Array,
    from: number,
    to: number,
    of: readonly number[],
  ): Effect {
    const inMixSone = new Float64Array(this.#tracks.length)
    const own = this.#tracks[track]
    let aloneSone = 0
    const noise = new Float64Array(FILTER_COUNT)
    const heard = new Float64Array(FILTER_COUNT)
    for (let f = 0; f < this.frames; f++) {
      if (own.active[f] === 0) continue
      const at = f * FILTER_COUNT
      const all = this.#all.subarray(at, at + FILTER_COUNT)
      const before = own.excitation.subarray(at, at + FILTER_COUNT)
      const after = changed.subarray(at, at + FILTER_COUNT)
      for (const t of of) {
        const each = this.#tracks[t]
        if (each.active[f] === 0) continue
        const signal = t === track ? after : each.excitation.subarray(at, at + FILTER_COUNT)
        if (t === track) difference(all, before, noise, from, to)
        else swap(all, signal, before, after, noise, from, to)
        specificPartialLoudness(signal, noise, heard, from, to)
        inMixSone[t] += sumOfDifference(heard, each.partial, at, from, to)
      }
      specificLoudness(after, heard, from, to)
      aloneSone += sumOfDifference(heard, own.alone, at, from, to)
    }
    for (let t = 0; t < inMixSone.length; t++) {
      inMixSone[t] *= SONE_PER_SUM / Math.max(1, activeCount(this.#tracks[t]))
    }
    return { inMixSone, aloneSone: (aloneSone * SONE_PER_SUM) / Math.max(1, activeCount(own)) }
  }
}

/** K-weighting of power per hearing band (BS.1770-5). */
const kGains = Float64Array.from(FILTER_HZ, (hz) => 10 ** (kWeightingDb(hz) / 10))

const unchanged = new Float64Array(FILTER_COUNT).fill(1)

function weightedPower(bands: Float32Array, gains: Float64Array): number {
  let sum = 0
  for (let i = 0; i < bands.length; i++) {
    const b = i % FILTER_COUNT
    sum += bands[i] * gains[b] * kGains[b]
  }
  return sum
}

/** From a sum over filters in sone per ERB to sone. */
const SONE_PER_SUM = totalSone(new Float64Array(FILTER_COUNT).fill(1)) / FILTER_COUNT

function scaleRange(
  values: Float32Array,
  gains: Float64Array,
  at: number,
  from: number,
  to: number,
): void {
  for (let b = from; b < to; b++) values[at + b] *= gains[b]
}

function activeCount({ active }: TrialTrack): number {
  let count = 0
  for (const a of active) count += a
  return count
}

function addTo(sum: Float64Array, values: Float64Array): void {
  for (let i = 0; i < sum.length; i++) sum[i] += values[i]
}

function difference(
  all: Float64Array,
  own: Float64Array,
  out: Float64Array,
  from = 0,
  to = FILTER_COUNT,
): void {
  for (let b = from; b < to; b++) out[b] = Math.max(0, all[b] - own[b])
}

/** What is beside `own` when another track goes from `before` to `after`. */
function swap(
  all: Float64Array,
  own: Float64Array,
  before: Float64Array,
  after: Float64Array,
  out: Float64Array,
  from: number,
  to: number,
): void {
  for (let b = from; b < to; b++) out[b] = Math.max(0, all[b] - own[b] - before[b] + after[b])
}

function sumOfDifference(
  values: Float64Array,
  kept: Float64Array,
  at: number,
  from: number,
  to: number,
): number {
  let sum = 0
  for (let b = from; b < to; b++) sum += values[b] - kept[at + b]
  return sum
}
