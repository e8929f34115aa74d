import { type Clip, dbToAmplitude, makeClip, scaled } from '../audio'
import { emptyChain } from '../session'
import type { MixPlan, TrackPlan } from './mix-plan'
import type { TrackAudio } from './mixer'
import { renderMix, type Stretch } from './render'
import { chainBands } from './track-chain'

/**
 * The sum of treated tracks over a stretch, before the mix's own chain. Kept from one state of a session
 * to the next, it makes a change to one track cost that track alone.
 */
export interface MixBed {
  readonly left: Float32Array
  readonly right: Float32Array
  /** The tracks that are in it, as they were. */
  readonly tracks: readonly TrackPlan[]
}

const BED = 'bed'

/**
 * Renders a stretch of the mix over a bed, and brings the samples of the bed up to date in place; its
 * `tracks` are then those of the plan. Rounding adds up to less than -120 dB over hundreds of changes.
 * The mix's chain hears nothing beyond the stretch: take it longer than its filters reach. The clip may
 * be the bed itself: it is for reading.
 */
export function renderOverBed(
  plan: MixPlan,
  audio: ReadonlyMap<string, TrackAudio>,
  sampleRateHz: number,
  stretch: Stretch,
  bed: MixBed,
): Clip {
  const add = (tracks: readonly TrackPlan[], sign: 1 | -1) => {
    if (tracks.length === 0) return
    const lanes = { tracks, chain: emptyChain(), faderDb: 0 }
    const { channels } = renderMix(lanes, audio, sampleRateHz, stretch)
    addTo(bed.left, channels[0], sign)
    addTo(bed.right, channels[1], sign)
  }
  add(without(bed.tracks, plan.tracks), -1)
  add(without(plan.tracks, bed.tracks), 1)
  const { chain, faderDb } = plan
  if (isPlain(chain)) {
    // What is at unity need not be copied.
    if (faderDb === 0) return makeClip(sampleRateHz, [bed.left, bed.right])
    const gain = dbToAmplitude(faderDb)
    return makeClip(sampleRateHz, [scaled(bed.left, gain), scaled(bed.right, gain)])
  }
  const lane: TrackPlan = {
    id: BED,
    offsetFrames: stretch.fromFrame,
    faderDb: 0,
    pan: 0,
    audible: true,
    chain: emptyChain(),
  }
  const samples = new Map([[BED, [bed.left, bed.right]]])
  return renderMix({ tracks: [lane], chain, faderDb }, samples, sampleRateHz, stretch)
}

/** Whether a mix's chain leaves the sound as it is, so that nothing beyond a stretch matters to it. */
export function isPlain(chain: MixPlan['chain']): boolean {
  const { trimDb, polarity } = chain.output
  return chainBands(chain).length === 0 && trimDb === 0 && polarity !== 'inverted'
}

/** Tracks of the first that are not in the second as they are. */
function without(tracks: readonly TrackPlan[], others: readonly TrackPlan[]): TrackPlan[] {
  const there = new Set(others.map(asKey))
  return tracks.filter((t) => !there.has(asKey(t)))
}

function asKey({ id, offsetFrames, faderDb, pan, audible, chain }: TrackPlan): string {
  return audible ? JSON.stringify([id, offsetFrames, faderDb, pan, chain]) : `${id} silent`
}

function addTo(sum: Float32Array, values: Float32Array, sign: 1 | -1): void {
  for (let i = 0; i < sum.length; i++) sum[i] += sign * values[i]
}
