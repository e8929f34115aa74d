import { dbToAmplitude } from '@sober-prism/core/audio'
import { SourceMeter, type SourceReading } from '@sober-prism/core/findings'
import type { Moments } from '@sober-prism/core/hearing'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import { type NodePlan, type OpenSound, openSound, panGains, placed } from '@sober-prism/core/mix'
import type { BedFilling } from '../analysis/mix-beds'
import type { NodeKind } from '../analysis/scheduler'
import type { Tools } from '../analysis/tools'
import { isCancel } from '../engine-error'
import { addToBed, type BedTarget } from '../work/fill-bed'
import type { Measured } from './levels'
import { follow, lengthOf, openInput, type Pieces, sourcesOf } from './open-input'
import type { Answerer, SoundInput } from './question'
import { shareReading } from './shared-arrays'

/** A treated track by itself: what is shown of it, and what findings need but its rings, which take longer to find. */
export interface MeasuredTrack extends Measured {
  readonly reading: Omit<SourceReading, 'rings'>
}

/** Beds of the mix, and the track's place and level in it. */
interface BedInput {
  readonly target: BedTarget
  readonly pan: number
  readonly gainDb: number
}

interface TrackInput extends SoundInput {
  /** When all tracks are listened to. */
  readonly moments: Moments
}

interface TrackSettings extends Tools, TrackInput {
  /** Beds of the mix to which it is added on the way, with its place in the mix's plan; it changes no result. */
  readonly fill: { readonly filling: BedFilling; readonly track: NodePlan } | null
}

/** A track as it is placed, through its chain and those of its groups. */
export const trackNode: NodeKind<TrackSettings, readonly [], MeasuredTrack> = {
  name: 'track',
  version: 22,
  label: 'Measuring tracks and mix',
  keep: 'stored',
  async run(_, { pool, beds: _beds, fill, ...input }, { signal, onProgress }) {
    const options = { queueSignal: signal, onProgress, followed: true }
    if (fill && input.sound.of === 'chain') {
      const { filling, track } = fill
      const bed = { target: filling.target, pan: track.pan, gainDb: track.faderDb }
      try {
        const measured = await pool.run('track', { ...input, bed }, { ...options, retry: false })
        filling.add(track)
        return measured
      } catch (error) {
        // What was given up had not begun; anything else may have left half of it in the beds.
        if (isCancel(error)) throw error
        filling.spoil()
      }
    }
    return pool.run('track', { ...input, bed: null }, options)
  },
}

/** Measures a placed track. On the way it is added to beds of the mix, if any. */
export const answerTrack: Answerer<
  TrackInput & { readonly bed: BedInput | null },
  MeasuredTrack
> = async (input, onProgress) => {
  const { stretch, moments, sound } = input
  const { channels, pieces } = opened(input)
  const length = lengthOf(stretch)
  const { sampleRateHz } = sound
  const meter = new SourceMeter({
    sampleRateHz,
    channels,
    length,
    longest: length,
    moments,
    rings: [],
  })
  const loudness = new LoudnessMeter(sampleRateHz, channels)
  await follow(pieces, length, onProgress, (piece) => {
    meter.add(piece)
    loudness.add(piece)
  })
  const { rings: _notLookedFor, ...reading } = meter.finish()
  const levels = channels === 1 ? reading.levels.map((db) => db + MIDDLE_DB) : reading.levels
  return { levels, lufs: loudness.read().integratedLufs, reading: shareReading(reading) }
}

const MIDDLE_DB = 10 * Math.log10(0.5)

function opened(input: SoundInput & { readonly bed: BedInput | null }): OpenSound {
  const { sound, recordings, stretch, bed } = input
  if (!bed || sound.of !== 'chain') return openInput(input)
  const { pan } = sound
  const own = openSound({ ...sound, pan: null }, sourcesOf(recordings), stretch)
  const count = recordings.get(sound.source)?.channels ?? sound.channels
  const heard = added(own.pieces, stretch.fromFrame, panGains(bed.pan, count), bed)
  return {
    channels: sound.channels,
    pieces: pan === null ? heard : placed(heard, panGains(pan, count)),
  }
}

/** A track on its way, which adds itself to the beds of the mix as it stands there. */
async function* added(
  pieces: Pieces,
  fromFrame: number,
  [left, right]: readonly [number, number],
  { target, gainDb }: BedInput,
): Pieces {
  const gain = dbToAmplitude(gainDb)
  let at = fromFrame
  for await (const piece of pieces) {
    addToBed(target, at, piece, [gain * left, gain * right])
    at += piece[0].length
    yield piece
  }
}
