import { excitation, FILTER_COUNT } from './excitation'
import type { HeardMoments } from './heard-moments'
import { cochlearGains } from './hearing-bands'
import type { HearingSettings, MaskingTrack } from './masking'
import type { Moments } from './moments'
import { QUIET, specificLoudness, totalSone } from './specific-loudness'
import { crosstalk, joinEars, type Listening } from './two-ears'

/** What one ear hears of a track; `moments × FILTER_COUNT` values, relative to 0 dB SPL at the cochlea. */
export interface EarPatterns {
  /** Intensity in each band. */
  readonly intensity: Float32Array
  /** The same with what still covers from before: what other tracks meet as noise. */
  readonly masker: Float32Array
  /** Excitation of the track by itself. */
  readonly excitation: Float32Array
  /** Excitation by `masker`, by which losses are shared among maskers. */
  readonly spread: Float32Array
}

/** What is heard of one track at its level in the mix, moment by moment. */
export interface TrackPatterns {
  readonly moments: Moments
  /** One where both ears hear the same, else left and right. */
  readonly ears: readonly EarPatterns[]
  readonly listening: Listening
  /** How tonal the track is as each filter hears it, 0 to 1, `moments × FILTER_COUNT`. */
  readonly tonal: Float32Array
  /** Share of each band's power that lies in the sides of the mix, `moments × FILTER_COUNT`; null where none does. */
  readonly sides: Float32Array | null
  /** Specific loudness alone, in sone per ERB, `moments × FILTER_COUNT`. */
  readonly alone: Float32Array
  /** Loudness alone at each moment, in sone. */
  readonly aloneSone: Float64Array
  /** How much each moment counts in means of the track: its time, where it sounds, and little in tails and silence. */
  readonly weights: Float64Array
}

/** Gains of power on a track's middle and sides, per filter. */
export interface PartGains {
  readonly mid: Float64Array
  readonly side: Float64Array
}

/** Room for one ear's share of {@link earIntensity}. */
interface EarRoom {
  readonly intensity: Float32Array
  readonly masker: Float32Array
}

const EVERY_BAND = [0, FILTER_COUNT] as const

/**
 * What the ears get of a sound at one moment.
 * @param row of the sound's bands; @param into where it goes in the rooms.
 * @param gains at the cochlea; @param parts gains on middle and sides besides.
 * @param from which band and up to which; others are left as they are in the rooms.
 */
export function earIntensity(
  { mid, side, cross, past, fade }: Omit<HeardMoments, 'moments' | 'tonal'>,
  row: number,
  gains: Float64Array,
  parts: PartGains | null,
  settings: Pick<HearingSettings, 'mode' | 'listening'>,
  rooms: readonly EarRoom[],
  into: number,
  [from, to]: readonly [number, number] = EVERY_BAND,
): void {
  const [first, second] = rooms
  const far = crosstalk(settings.listening)
  for (let b = from; b < to; b++) {
    const gain = gains[b]
    const ofMid = parts ? parts.mid[b] : 1
    const middle = mid[row + b] * gain * ofMid
    const gone = past[row + b] * gain * ofMid
    if (!second || !side || !cross) {
      const apart =
        settings.mode === 'stereo' && side ? side[row + b] * gain * (parts?.side[b] ?? 1) : 0
      const all = middle + apart
      // What is left of the past is less than it was: nothing beside what is louder now.
      const before = gone > all ? stillCovers(gone, fade[row + b], QUIET[b]) : 0
      first.intensity[into + b] = all
      first.masker[into + b] = Math.max(all, before)
      continue
    }
    const ofSide = parts ? parts.side[b] : 1
    const all = middle + side[row + b] * gain * ofSide
    const before = gone > all ? stillCovers(gone, fade[row + b], QUIET[b]) : 0
    const more = cross[row + b] * gain * (parts ? Math.sqrt(ofMid * ofSide) : 1)
    let left = Math.max(0, all + more)
    let right = Math.max(0, all - more)
    if (far) {
      const c = far[b]
      const near = left
      left = (left + c * right) / (1 + c)
      right = (right + c * near) / (1 + c)
    }
    first.intensity[into + b] = left
    second.intensity[into + b] = right
    // What sounded before stood where the sound stands now, or in the middle.
    const half = all > 0 ? before / all : 0
    first.masker[into + b] = all > 0 ? Math.max(left, half * left) : before
    second.masker[into + b] = all > 0 ? Math.max(right, half * right) : before
  }
}

/** What is left to cover of a power that sounded before; see {@link HeardMoments.fade}. */
function stillCovers(power: number, fade: number, quiet: number): number {
  return power > quiet ? quiet * (power / quiet) ** fade : 0
}

/** Whether the ears hear a track differently. */
export function hasTwoEars(heard: HeardMoments, mode: HearingSettings['mode']): boolean {
  return mode === 'stereo' && heard.side !== null
}

/** What is heard of a track at all moments. */
export function trackPatterns(track: MaskingTrack, settings: HearingSettings): TrackPatterns {
  const { heard, gainDb } = track
  const { moments, side, mid } = heard
  const count = moments.at.length
  const cells = count * FILTER_COUNT
  const gain = 10 ** (gainDb / 10)
  const gains = cochlearGains(settings.calibration).map((g) => g * gain)
  const isTwo = hasTwoEars(heard, settings.mode)
  const ears = Array.from({ length: isTwo ? 2 : 1 }, () => ({
    intensity: new Float32Array(cells),
    masker: new Float32Array(cells),
    excitation: new Float32Array(cells),
    spread: new Float32Array(cells),
  }))
  const out = {
    moments,
    listening: settings.listening,
    ears,
    tonal: heard.tonal,
    sides: isTwo ? new Float32Array(cells) : null,
    alone: new Float32Array(cells),
    aloneSone: new Float64Array(count),
    weights: new Float64Array(count),
  }
  const pattern = new Float64Array(FILTER_COUNT)
  const loudness = ears.map(() => new Float64Array(FILTER_COUNT))
  for (let m = 0; m < count; m++) {
    const at = m * FILTER_COUNT
    earIntensity(heard, at, gains, null, settings, ears, at)
    ears.forEach((ear, e) => {
      excitation(ear.intensity.subarray(at, at + FILTER_COUNT), pattern)
      ear.excitation.set(pattern, at)
      specificLoudness(pattern, loudness[e])
      if (coversMore(ear, at)) excitation(ear.masker.subarray(at, at + FILTER_COUNT), pattern)
      ear.spread.set(pattern, at)
    })
    if (isTwo) joinEars(loudness[0], loudness[1], loudness[0])
    out.alone.set(loudness[0], at)
    out.aloneSone[m] = totalSone(loudness[0])
    if (!out.sides || !side) continue
    for (let b = 0; b < FILTER_COUNT; b++) {
      const apart = side[at + b]
      out.sides[at + b] = apart > 0 ? apart / (mid[at + b] + apart) : 0
    }
  }
  out.weights.set(soundingTime(out.aloneSone, moments.seconds))
  return out
}

/** A moment at this part of a track's usual loudness counts half. */
const HALF_COUNTS = 0.5
/** A track below this loudness is not heard even alone. */
const AUDIBLE_SONE = 0.003

/** The time of each moment as far as the track sounds in it, against the loudness of its loud moments. */
function soundingTime(sone: Float64Array, seconds: Float64Array): Float64Array {
  let [sum, squares] = [0, 0]
  sone.forEach((n, m) => {
    sum += n * seconds[m]
    squares += n * n * seconds[m]
  })
  const gate = sum > 0 ? HALF_COUNTS * (squares / sum) : 1
  return sone.map((n, m) => (n >= AUDIBLE_SONE ? (seconds[m] * n * n) / (n * n + gate * gate) : 0))
}

/** Whether the past covers more than the present does. */
export function coversMore({ intensity, masker }: EarRoom, at: number): boolean {
  for (let i = at; i < at + FILTER_COUNT; i++) if (masker[i] > 1.02 * intensity[i]) return true
  return false
}
