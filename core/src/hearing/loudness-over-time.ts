import { type Clip, sliceClip } from '../audio'
import { heardMoments } from './heard-moments'
import { midAndSide } from './hearing-bands'
import type { HearingSettings } from './masking'
import { planMoments } from './moments'
import { trackPatterns } from './track-patterns'

/** Time constants in seconds (Glasberg and Moore 2002, eq. 8 to 12: 0.045, 0.02, 0.01 and 0.0005 a millisecond; memory). */
const SHORT = { attack: 0.0217, release: 0.0495 } as const
const LONG = { attack: 0.0991, release: 2 } as const

/** Smooths instantaneous loudness: what is heard of a syllable, and of a phrase. */
export class LoudnessSmoother {
  /** In sone. */
  shortTerm = 0
  longTerm = 0
  readonly #short: Shares
  readonly #long: Shares

  /** @param stepSeconds time from one value to the next. */
  constructor(stepSeconds: number) {
    this.#short = sharesOf(SHORT, stepSeconds)
    this.#long = sharesOf(LONG, stepSeconds)
  }

  /** Takes the next instantaneous loudness, in sone. */
  next(sone: number): void {
    this.shortTerm = smoothed(this.shortTerm, sone, this.#short)
    this.longTerm = smoothed(this.longTerm, this.shortTerm, this.#long)
  }
}

interface Shares {
  readonly attack: number
  readonly release: number
}

function sharesOf({ attack, release }: Shares, stepSeconds: number): Shares {
  const share = (seconds: number) => 1 - Math.exp(-stepSeconds / seconds)
  return { attack: share(attack), release: share(release) }
}

function smoothed(now: number, wanted: number, { attack, release }: Shares): number {
  return now + (wanted > now ? attack : release) * (wanted - now)
}

/** Loudness over time, in sone, at even steps. */
export interface LoudnessOverTime {
  readonly stepSeconds: number
  readonly instantaneous: Float64Array
  readonly shortTerm: Float64Array
  readonly longTerm: Float64Array
}

/** Long sounds are heard in pieces of this length, each with what sounded just before. */
const PIECE_SECONDS = 8
const BEFORE_SECONDS = 0.5

/** How loud a sound is by itself, moment by moment: instantaneous, short-term and long-term loudness. */
export function loudnessOverTime(clip: Clip, settings: HearingSettings): LoudnessOverTime {
  const { sampleRateHz, frames } = clip
  const hop = hopOf(sampleRateHz)
  const piece = hop * Math.round((PIECE_SECONDS * sampleRateHz) / hop)
  const before = hop * Math.round((BEFORE_SECONDS * sampleRateHz) / hop)
  const count = Math.max(1, Math.ceil(frames / hop))
  const instantaneous = new Float64Array(count)
  for (let from = 0; from < frames; from += piece) {
    const start = Math.max(0, from - before)
    const part = sliceClip(clip, start, Math.min(frames, from + piece))
    const moments = planMoments(sampleRateHz, part.frames, [], Number.POSITIVE_INFINITY)
    const heard = heardMoments(midAndSide(part.channels), sampleRateHz, moments)
    const { aloneSone } = trackPatterns({ heard, gainDb: 0 }, settings)
    instantaneous.set(aloneSone.subarray((from - start) / hop), from / hop)
  }
  const smoother = new LoudnessSmoother(hop / sampleRateHz)
  const shortTerm = new Float64Array(count)
  const longTerm = new Float64Array(count)
  instantaneous.forEach((sone, i) => {
    smoother.next(sone)
    shortTerm[i] = smoother.shortTerm
    longTerm[i] = smoother.longTerm
  })
  return { stepSeconds: hop / sampleRateHz, instantaneous, shortTerm, longTerm }
}

/** Frames from one moment to the next where all are taken. */
function hopOf(sampleRateHz: number): number {
  const { at } = planMoments(sampleRateHz, sampleRateHz, [], Number.POSITIVE_INFINITY)
  return at[1] - at[0]
}
