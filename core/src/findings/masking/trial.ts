import type { EqBand } from '../../filters'
import {
  bandsAround,
  changeExcitation,
  cochlearGains,
  coversMore,
  ERB_STEP,
  earIntensity,
  FILTER_COUNT,
  FILTER_HZ,
  type HeardMoments,
  type HearingSettings,
  joinBy,
  joinEars,
  kFactor,
  kTogether,
  type MaskingTrack,
  type PartGains,
  specificLoudness,
  specificPartialLoudness,
  type TrackPatterns,
  totalSone,
  trackPatterns,
} from '../../hearing'
import { kWeightingDb } from '../../loudness'
import { bandPowerGains } from '../band-gains'
import { followedMoments } from './followed-moments'
import { besideEachOther, heardWith, type TrackBeside, thinOut } from './trial-patterns'

/** How tracks are heard while moves are tried out. */
export interface TrialSettings extends HearingSettings {
  readonly sampleRateHz: number
  /** At most about this many moments of the passage are used. */
  readonly frames?: number
}

/** What a move changes, per track: sones of its loudness in the mix, as means over the time in which it sounds. */
export interface Effect {
  readonly inMixSone: Float64Array
  /** Change of the treated track's loudness alone. */
  readonly aloneSone: number
  /** How far its pattern of specific loudness moves, its loudness taken out: sones in other places than before. */
  readonly toneSone: number
}

const TRIAL_MOMENTS = 144
/** Noise that changes by no larger a share of itself leaves what is heard beside it as it is. */
const NEGLIGIBLE_SHARE = 0.001
/** Gains of power nearer to 1 than this change nothing. */
const UNCHANGED_SHARE = 0.01
/** Filters below and above a changed band that hear the change: skirts fall steeply down and slowly up. */
const REACH_DOWN = 8
const REACH_UP = 28

/** Gains on a track, and the filters they touch. */
interface Treatment extends PartGains {
  readonly from: number
  readonly to: number
}

/** What a track becomes at each ear: its excitation, and what that adds to the noise of others. */
interface ChangedEar {
  readonly excitation: Float32Array
  readonly added: Float32Array
}

const unchanged: PartGains = {
  mid: new Float64Array(FILTER_COUNT).fill(1),
  side: new Float64Array(FILTER_COUNT).fill(1),
}

/**
 * Some moments of all tracks on which moves are tried out: each move is run through the masking model, and only what it
 * touches is computed again. What a move takes from the noise of others is taken with the slopes of its own track.
 */
export class Trial {
  readonly #settings: TrialSettings
  readonly #tracks: MaskingTrack[]
  readonly #made: PartGains[]
  readonly #patterns: TrackPatterns[]
  #beside: TrackBeside[]
  readonly #power: Float64Array
  readonly #everybody: readonly number[]
  readonly moments: number
  readonly #factors = new Float64Array(FILTER_COUNT)
  /** Of one moment, for each ear. */
  readonly #noise = [new Float64Array(FILTER_COUNT), new Float64Array(FILTER_COUNT)]
  readonly #heard = [new Float64Array(FILTER_COUNT), new Float64Array(FILTER_COUNT)]

  constructor(tracks: readonly MaskingTrack[], settings: TrialSettings) {
    this.#settings = settings
    this.#tracks = thinOut(tracks, settings.frames ?? TRIAL_MOMENTS)
    this.moments = this.#tracks[0]?.heard.moments.at.length ?? 0
    this.#made = tracks.map(() => unchanged)
    this.#patterns = this.#tracks.map((track) => trackPatterns(track, settings))
    this.#beside = besideEachOther(this.#patterns)
    this.#power = Float64Array.from(tracks, (_, t) => this.#weighted(t, unchanged))
    this.#everybody = tracks.map((_, t) => t)
  }

  get sampleRateHz(): number {
    return this.#settings.sampleRateHz
  }

  /** Loudness of each track as it stands: alone, and what is left of it in the mix. */
  get loudness(): readonly { readonly aloneSone: number; readonly inMixSone: number }[] {
    return this.#patterns.map((pattern, t) => {
      const scale = this.#scale(t)
      let [alone, partial] = [0, 0]
      const heard = this.#beside[t].partial
      this.#each(t, (m, seconds) => {
        alone += pattern.aloneSone[m] * seconds
        let sum = 0
        for (let b = m * FILTER_COUNT; b < (m + 1) * FILTER_COUNT; b++) sum += heard[b]
        partial += sum * ERB_STEP * seconds
      })
      return { aloneSone: alone * scale, inMixSone: Math.min(alone, partial) * scale }
    })
  }

  /**
   * What bands on a track would change, and a gain behind them.
   * @param of the tracks that are asked about; of others the effect says 0.
   */
  tryMove(track: number, bands: readonly EqBand[], gainDb = 0, of = this.#everybody): Effect {
    const treatment = this.#treatment(track, bands, gainDb)
    return this.#compare(track, this.#change(track, treatment), treatment, of)
  }

  /** What of `target` would be won in the mix by bands on another track: as {@link tryMove} says, for a part of its work. */
  wonBy(track: number, bands: readonly EqBand[], target: number): number {
    const treatment = this.#treatment(track, bands, 0)
    const changed = this.#change(track, treatment, target)
    const [first, last] = reachOf(treatment)
    return this.#partialChange(target, this.#patterns[target].ears, changed, track, first, last)
  }

  /** What it would change if a track were measured as `treated` instead, at its level in the mix. */
  tryBands(track: number, treated: MaskingTrack): Effect {
    const [thin] = thinOut([treated, ...this.#tracks], Number.POSITIVE_INFINITY)
    return this.#compareWith(track, trackPatterns(thin, this.#settings))
  }

  /** What a bell on a track would change that is drawn by another track, see {@link followedMoments}. */
  tryFollow(track: number, key: number, bell: EqBand): Effect {
    return this.#compareWith(track, this.#madeOn(track, this.#followed(track, key, bell)))
  }

  /** Makes such a move. */
  applyFollow(track: number, key: number, bell: EqBand): void {
    this.#tracks[track] = { ...this.#tracks[track], heard: this.#followed(track, key, bell) }
    this.#patterns[track] = this.#madeOn(track, this.#tracks[track].heard)
    this.#beside = besideEachOther(this.#patterns)
  }

  #followed(track: number, key: number, bell: EqBand): HeardMoments {
    return followedMoments(
      this.#tracks[track],
      this.#tracks[key],
      bell,
      this.#settings.sampleRateHz,
    )
  }

  #compareWith(track: number, after: TrackPatterns): Effect {
    const ears = after.ears.map(({ excitation, spread }, e) => ({
      excitation,
      added: spread.map((v, i) => v - this.#patterns[track].ears[e].spread[i]),
    }))
    return this.#compare(track, ears, { ...unchanged, from: 0, to: FILTER_COUNT }, this.#everybody)
  }

  /**
   * Loudness that the whole mix gains or loses, filter by filter added up without regard to sign, when
   * its power changes by `gains`. In sone.
   */
  wholeChange(gains: Float64Array): number {
    const all = new Float64Array(FILTER_COUNT)
    const changed = new Float64Array(FILTER_COUNT)
    const [before, after] = [new Float64Array(FILTER_COUNT), new Float64Array(FILTER_COUNT)]
    let [sum, time] = [0, 0]
    for (let m = 0; m < this.moments; m++) {
      all.fill(0)
      for (const { ears } of this.#patterns) addRow(all, ears[0].excitation, m)
      for (let b = 0; b < FILTER_COUNT; b++) changed[b] = all[b] * gains[b]
      specificLoudness(all, before)
      specificLoudness(changed, after)
      const seconds = this.#seconds(m)
      time += seconds
      for (let b = 0; b < FILTER_COUNT; b++) sum += Math.abs(after[b] - before[b]) * seconds
    }
    return time > 0 ? (sum * ERB_STEP) / time : 0
  }

  /**
   * Loudness alone of some tracks together, with their power changed by `gains`: a mean over the time in
   * which any of them sounds, louder moments counting more. In sone.
   */
  together(tracks: readonly number[], gains: Float64Array): number {
    const sum = new Float64Array(FILTER_COUNT)
    const loudness = new Float64Array(FILTER_COUNT)
    let [sone, weight] = [0, 0]
    for (let m = 0; m < this.moments; m++) {
      sum.fill(0)
      let sounding = 0
      for (const t of tracks) {
        sounding += this.#patterns[t].aloneSone[m]
        addRow(sum, this.#patterns[t].ears[0].excitation, m)
      }
      for (let b = 0; b < FILTER_COUNT; b++) sum[b] *= gains[b]
      sone += totalSone(specificLoudness(sum, loudness)) * sounding * this.#seconds(m)
      weight += sounding * this.#seconds(m)
    }
    return weight > 0 ? sone / weight : 0
  }

  /** K-weighted level change of a track since the trial began, in LU, with `bands` put on it besides. */
  levelSinceStart(track: number, bands: readonly EqBand[] = []): number {
    const power = this.#power[track]
    const now = this.#weighted(track, this.#treatment(track, bands, 0))
    return power > 0 ? 10 * Math.log10(now / power) : 0
  }

  /** Makes a move: later ones are tried out on top of it. */
  apply(track: number, bands: readonly EqBand[], gainDb = 0): void {
    const { mid, side } = this.#treatment(track, bands, gainDb)
    this.#made[track] = { mid, side }
    this.#patterns[track] = this.#madeOn(track, this.#tracks[track].heard)
    this.#beside = besideEachOther(this.#patterns)
  }

  /** Makes a move on every track: what is done to their mix. */
  applyToAll(bands: readonly EqBand[], gainDb = 0): void {
    for (const track of this.#everybody) {
      const { mid, side } = this.#treatment(track, bands, gainDb)
      this.#made[track] = { mid, side }
      this.#patterns[track] = this.#madeOn(track, this.#tracks[track].heard)
    }
    this.#beside = besideEachOther(this.#patterns)
  }

  /** What gains on the power of a track would change, per auditory filter of its middle and its sides. */
  tryGains(track: number, gains: PartGains): Effect {
    const treatment = this.#withMade(track, gains.mid, gains.side)
    return this.#compare(track, this.#change(track, treatment), treatment, this.#everybody)
  }

  /** Loudness of each track as it would stand with gains on several; nothing is made. */
  loudnessWith(gains: ReadonlyMap<number, PartGains>): Trial['loudness'] {
    const [patterns, beside] = [[...this.#patterns], this.#beside]
    const made = [...this.#made]
    for (const [track, { mid, side }] of gains) {
      this.#made[track] = this.#withMade(track, mid, side)
      this.#patterns[track] = this.#madeOn(track, this.#tracks[track].heard)
    }
    this.#beside = besideEachOther(this.#patterns)
    const { loudness } = this
    this.#patterns.splice(0, patterns.length, ...patterns)
    this.#made.splice(0, made.length, ...made)
    this.#beside = beside
    return loudness
  }

  /** Makes what changes the power of a track by so much, per auditory filter. */
  applyGains(track: number, gains: Float64Array): void {
    const { mid, side } = this.#made[track]
    this.#made[track] = {
      mid: mid.map((g, b) => g * gains[b]),
      side: side.map((g, b) => g * gains[b]),
    }
    this.#patterns[track] = this.#madeOn(track, this.#tracks[track].heard)
    this.#beside = besideEachOther(this.#patterns)
  }

  /** What a track is heard as with all moves that were made on it. */
  #madeOn(track: number, heard: HeardMoments): TrackPatterns {
    const treated = heardWith(heard, this.#made[track])
    return trackPatterns({ heard: treated, gainDb: this.#tracks[track].gainDb }, this.#settings)
  }

  #seconds(m: number): number {
    return this.#patterns[0].moments.seconds[m]
  }

  /** Visits the moments in which a track sounds, with what they count. */
  #each(t: number, visit: (m: number, counts: number) => void): void {
    const { weights } = this.#patterns[t]
    for (let m = 0; m < this.moments; m++) if (weights[m] > 0) visit(m, weights[m])
  }

  /** From sums over time to means over the time in which a track sounds. */
  #scale(t: number): number {
    const time = this.#patterns[t].weights.reduce((a, b) => a + b, 0)
    return time > 0 ? 1 / time : 0
  }

  /** Gains on a track with all that was made before, and the filters that `bands` touch. */
  #treatment(track: number, bands: readonly EqBand[], gainDb: number): Treatment {
    const rate = this.#settings.sampleRateHz
    const behind = 10 ** (gainDb / 10)
    const mid = bandPowerGains(bands, 'mid', rate).map((g) => g * behind)
    const side = bandPowerGains(bands, 'side', rate).map((g) => g * behind)
    return this.#withMade(track, mid, side)
  }

  /** Gains besides those that were made before, and the filters that they touch. */
  #withMade(track: number, mid: Float64Array, side: Float64Array): Treatment {
    const touched = (b: number) => Math.abs(mid[b] - 1) + Math.abs(side[b] - 1) > UNCHANGED_SHARE
    let from = 0
    while (from < FILTER_COUNT && !touched(from)) from++
    let to = FILTER_COUNT
    while (to > from && !touched(to - 1)) to--
    const made = this.#made[track]
    return {
      mid: mid.map((g, b) => g * made.mid[b]),
      side: side.map((g, b) => g * made.side[b]),
      from,
      to,
    }
  }

  /** What a track becomes at each ear. @param listener who alone hears it: only what reaches that one is worked out. */
  #change(track: number, { mid, side, from, to }: Treatment, listener?: number): ChangedEar[] {
    const { heard, gainDb } = this.#tracks[track]
    const pattern = this.#patterns[track]
    const level = 10 ** (gainDb / 10)
    const gains = cochlearGains(this.#settings.calibration).map((g) => g * level)
    const out = pattern.ears.map(({ excitation, spread }) => ({
      excitation: excitation.slice(),
      added: new Float32Array(spread.length),
    }))
    const rooms = pattern.ears.map(() => ({
      intensity: new Float32Array(FILTER_COUNT),
      masker: new Float32Array(FILTER_COUNT),
    }))
    const around = bandsAround(from, to)
    const work = new Float64Array(FILTER_COUNT)
    const heardBy = listener === undefined ? pattern.weights : this.#patterns[listener].weights
    for (let m = 0; m < this.moments; m++) {
      if (pattern.weights[m] === 0 || heardBy[m] === 0) continue
      const at = m * FILTER_COUNT
      earIntensity(heard, at, gains, { mid, side }, this.#settings, rooms, 0, around)
      pattern.ears.forEach((ear, e) => {
        const row = (values: Float32Array) => values.subarray(at, at + FILTER_COUNT)
        // Where the past covers no more than the present, what is heard is what covers.
        const isNow = !coversMore(ear, at) && !coversMore(rooms[e], 0)
        if (isNow || listener === undefined) {
          work.set(row(ear.excitation))
          changeExcitation(work, row(ear.intensity), rooms[e].intensity, from, to)
          out[e].excitation.set(work, at)
        }
        if (!isNow) {
          work.set(row(ear.spread))
          changeExcitation(work, row(ear.masker), rooms[e].masker, from, to)
        }
        const before = row(ear.spread)
        const added = row(out[e].added)
        for (let b = 0; b < FILTER_COUNT; b++) added[b] = work[b] - before[b]
      })
    }
    return out
  }

  #compare(
    track: number,
    changed: readonly ChangedEar[],
    treatment: Treatment,
    of: readonly number[],
  ): Effect {
    const [first, last] = reachOf(treatment)
    const inMixSone = new Float64Array(this.#tracks.length)
    for (const t of of) {
      const own = t === track ? changed : this.#patterns[t].ears
      inMixSone[t] = this.#partialChange(t, own, t === track ? null : changed, track, first, last)
    }
    return { inMixSone, ...this.#ownChange(track, changed, first, last) }
  }

  /** What a track gains in the mix when its ears hear `ears` of it, and others add `added` to its noise. */
  #partialChange(
    t: number,
    ears: readonly { readonly excitation: Float32Array }[],
    added: readonly ChangedEar[] | null,
    mover: number,
    from: number,
    to: number,
  ): number {
    const beside = this.#beside[t]
    const { weights } = this.#patterns[t]
    const moved = this.#patterns[mover].weights
    const [all, right] = this.#heard
    let sum = 0
    for (let m = 0; m < this.moments; m++) {
      if (weights[m] === 0 || moved[m] === 0) continue
      const at = m * FILTER_COUNT
      // Where others drown the mover, nothing of the track changes by it.
      if (!this.#noiseWith(beside, added, at, from, to)) continue
      const factors = added
        ? this.#kFactors(beside, mover, added, at, from, to)
        : beside.kFactors.subarray(at, at + FILTER_COUNT)
      for (let e = 0; e < beside.ears.length; e++) {
        const own = (ears[e] ?? ears[0]).excitation.subarray(at, at + FILTER_COUNT)
        specificPartialLoudness(own, this.#noise[e], factors, this.#heard[e], from, to)
      }
      const joined = beside.factors?.[m]
      if (joined) joinBy(joined, all, right, all, from, to)
      let difference = 0
      for (let b = from; b < to; b++) difference += all[b] - beside.partial[at + b]
      sum += difference * weights[m]
    }
    return sum * ERB_STEP * this.#scale(t)
  }

  /** The noise at each ear with what a mover adds to it; whether that changes any of it. */
  #noiseWith(
    { ears }: TrackBeside,
    added: readonly ChangedEar[] | null,
    at: number,
    from: number,
    to: number,
  ): boolean {
    let most = added ? 0 : 1
    for (let e = 0; e < ears.length; e++) {
      const { noise: known, won } = ears[e]
      const noise = this.#noise[e]
      const more = added && (added[e] ?? added[0]).added
      for (let b = from; b < to; b++) {
        const was = known[at + b]
        const change = more ? more[at + b] / (won ? won[at + b] : 1) : 0
        noise[b] = Math.max(0, was + change)
        most = Math.max(most, Math.abs(change) - NEGLIGIBLE_SHARE * was)
      }
    }
    return most > 0
  }

  /** Factors on K beside all others, once the mover covers as much more as it adds. */
  #kFactors(
    { covers, asNoise }: TrackBeside,
    mover: number,
    added: readonly ChangedEar[],
    at: number,
    from: number,
    to: number,
  ): Float64Array {
    const { tonal } = this.#patterns[mover]
    for (let b = from; b < to; b++) {
      const [first, second = first] = added
      const more = (first.added[at + b] + second.added[at + b]) / 2
      const moreAsNoise = more * kFactor(tonal[at + b])
      this.#factors[b] = kTogether(covers[at + b] + more, asNoise[at + b] + moreAsNoise)
    }
    return this.#factors
  }

  /** What a track gains alone, and how far its tone moves. */
  #ownChange(track: number, changed: readonly ChangedEar[], from: number, to: number) {
    const { alone, aloneSone } = this.#patterns[track]
    const loudness = changed.map(() => new Float64Array(FILTER_COUNT))
    let [sum, tone] = [0, 0]
    this.#each(track, (m, seconds) => {
      const at = m * FILTER_COUNT
      changed.forEach(({ excitation }, e) => {
        specificLoudness(excitation.subarray(at, at + FILTER_COUNT), loudness[e])
      })
      const [after, right] = loudness
      if (right) joinEars(after, right, after)
      const sone = totalSone(after)
      sum += (sone - aloneSone[m]) * seconds
      if (sone <= 0) return
      const ratio = aloneSone[m] / sone
      let apart = 0
      for (let b = 0; b < FILTER_COUNT; b++) apart += Math.abs(after[b] * ratio - alone[at + b])
      tone += 0.5 * apart * ERB_STEP * seconds
    })
    const scale = this.#scale(track)
    return from < to
      ? { aloneSone: sum * scale, toneSone: tone * scale }
      : { aloneSone: 0, toneSone: 0 }
  }

  #weighted(track: number, { mid, side }: PartGains): number {
    const { heard } = this.#tracks[track]
    const { seconds } = heard.moments
    let sum = 0
    for (let m = 0; m < this.moments; m++) {
      for (let b = 0; b < FILTER_COUNT; b++) {
        const at = m * FILTER_COUNT + b
        const apart = heard.side ? heard.side[at] * side[b] : 0
        sum += (heard.mid[at] * mid[b] + apart) * kGains[b] * seconds[m]
      }
    }
    return sum
  }
}

/** The filters that hear a change. */
function reachOf({ from, to }: Treatment): [number, number] {
  return [Math.max(0, from - REACH_DOWN), Math.min(FILTER_COUNT, to + REACH_UP)]
}

/** K-weighting of power per hearing band (BS.1770-5). */
export const kGains = Float64Array.from(FILTER_HZ, (hz) => 10 ** (kWeightingDb(hz) / 10))

function addRow(sum: Float64Array, values: Float32Array, m: number): void {
  const at = m * FILTER_COUNT
  for (let b = 0; b < FILTER_COUNT; b++) sum[b] += values[at + b]
}
