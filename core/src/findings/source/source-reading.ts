import { type Clip, decimate, powerToDb, splitStereo } from '../../audio'
import {
  activityOf,
  type HeardMoments,
  type HearingBands,
  type HearingLayout,
  HearingMeter,
  type Moments,
  MomentsMeter,
  planMoments,
} from '../../hearing'
import { type Band, forEachSpectrum, type StftSettings, sumIntoBands } from '../../spectrum'
import { type Outline, outlineOf } from '../alignment/alignment'
import { LEVEL_BANDS } from '../level-bands'
import { findHarshness, type Harshness } from '../own/harshness'
import { findRumble, type Rumble } from '../own/rumble'
import { findWideLowEnd, type WideLowEnd } from '../own/wide-low-end'
import type { Ring } from '../rings'
import { type Hum, HumMeter } from './hum'
import { type LowestNote, PitchProfile } from './pitch'
import { ringsOf } from './ring-meter'
import { Stretch, stretches } from './stretches'

/** What is measured of one sound by itself: everything that findings need of it but its audio. */
export interface SourceReading {
  /** What is heard at the moments at which all tracks of the session are listened to. */
  readonly heard: HeardMoments
  /** Short-time spectra at even distances, for what is looked for in the sound by itself. */
  readonly bands: HearingBands
  /** Long-term level of each sixth of an octave in dB, power averaged over channels. */
  readonly levels: Float64Array
  /** Fixed resonances, those that are most likely first: also such as are only worth a pencil mark, and such as a chain cuts. */
  readonly rings: readonly Ring[]
  /** The lowest note that really occurs. */
  readonly lowest: LowestNote
  /** The middle seconds of the middle signal. */
  readonly outline: Outline
  readonly rumble: Rumble | null
  readonly harshness: Harshness | null
  readonly hum: Hum | null
  readonly wideLowEnd: WideLowEnd | null
}

/** Low spectra and outlines are taken at about this sample rate. */
const LOW_RATE_HZ = 6000
const LOW: StftSettings = { size: 2048, hop: 1024, window: 'hann' }
/** Below this the low spectra count, above it the high ones. */
const SPLIT_HZ = 600
const OUTLINE_SECONDS = 24
/** How a sound is measured. */
export interface SourceLayout extends HearingLayout {
  readonly moments: Moments
  /** Rings that are known already, as those of the recording are behind its chain; else they are looked for in the sound. */
  readonly rings?: readonly Ring[]
}

/**
 * Measures a clip. @param longest frames of the longest clip of the session.
 * @param moments at which all tracks of the session are listened to; by itself, those that suit the clip.
 */
export function readSource(
  clip: Clip,
  longest = clip.frames,
  moments = planMoments(clip.sampleRateHz, longest, [activityOf(clip.channels)]),
): SourceReading {
  const { sampleRateHz, channels, frames } = clip
  const meter = new SourceMeter({
    sampleRateHz,
    channels: channels.length,
    length: frames,
    longest,
    moments,
  })
  meter.add(channels)
  return meter.finish()
}

/** Measures a sound that comes in pieces, in order; a few stretches of it are held at most. */
export class SourceMeter {
  readonly #hearing: HearingMeter
  readonly #moments: MomentsMeter
  readonly #high = new MeanSpectrum()
  readonly #low = new MeanSpectrum()
  /** The middle of the stretches, in which rings are looked for. */
  readonly #middles: Float32Array[] = []
  readonly #layout: SourceLayout
  readonly #pitch: PitchProfile
  readonly #hum: HumMeter
  readonly #halvings: number
  readonly #lowRateHz: number
  readonly #stretches: Stretch[]
  readonly #outline: Stretch
  #rooms = [new Float32Array(0), new Float32Array(0)]
  #position = 0

  constructor(layout: SourceLayout) {
    const { sampleRateHz, channels, length } = layout
    this.#moments = new MomentsMeter(layout)
    this.#halvings = Math.max(1, Math.round(Math.log2(sampleRateHz / LOW_RATE_HZ)))
    this.#lowRateHz = sampleRateHz / 2 ** this.#halvings
    this.#pitch = new PitchProfile(this.#lowRateHz)
    this.#hum = new HumMeter(this.#lowRateHz)
    this.#stretches = stretches(length, sampleRateHz).map(
      ([from, to]) => new Stretch(from, to, channels),
    )
    const middle = Math.max(0, Math.floor((length - OUTLINE_SECONDS * sampleRateHz) / 2))
    const end = Math.min(length, Math.floor(middle + OUTLINE_SECONDS * sampleRateHz))
    this.#outline = new Stretch(middle, end, 1)
    // One pass over frames serves what is looked for in short-time spectra, and levels.
    this.#layout = layout
    this.#hearing = new HearingMeter(layout, (power, binHz, isMid) => {
      this.#high.add(power, binHz, isMid)
    })
  }

  /** Takes the next piece: one or two channels. */
  add(channels: readonly Float32Array[]): void {
    const signals = this.#midAndSide(channels)
    this.#hearing.add(signals)
    this.#moments.add(signals)
    for (const stretch of this.#stretches) {
      if (stretch.add(signals, this.#position)) this.#readLow(stretch)
    }
    this.#outline.add(signals, this.#position)
    this.#position += channels[0].length
  }

  /** Middle and sides of a piece, until the next one comes: pieces are many, and memory for each takes its time. */
  #midAndSide([left, right]: readonly Float32Array[]): readonly Float32Array[] {
    if (!right) return [left]
    if (this.#rooms[0].length < left.length) {
      this.#rooms = [new Float32Array(left.length), new Float32Array(left.length)]
    }
    const parts = this.#rooms.map((room) => room.subarray(0, left.length))
    splitStereo(left, right, parts[0], parts[1])
    return parts
  }

  /** The low range, at a low rate: fine bins without long transforms. */
  #readLow(stretch: Stretch): void {
    const binHz = this.#lowRateHz / LOW.size
    const [mid, side] = stretch.take()
    if (!this.#layout.rings) this.#middles.push(mid)
    const low = decimate(mid, this.#halvings)
    this.#hum.add(low)
    forEachSpectrum(low, LOW, (power) => {
      this.#low.add(power, binHz, true)
    })
    this.#pitch.add(low)
    if (!side) return
    forEachSpectrum(decimate(side, this.#halvings), LOW, (power) => {
      this.#low.add(power, binHz, false)
    })
  }

  /** What was measured; to be called once, when everything has been added. */
  finish(): SourceReading {
    const bands = this.#hearing.finish()
    const heard = this.#moments.finish()
    const [outline] = this.#outline.take()
    const levels = joinLevels(this.#low, this.#high)
    const lowest = this.#pitch.lowest()
    const { rings: known, sampleRateHz } = this.#layout
    const hum = this.#hum.finish(levels.reduce((sum, db) => sum + 10 ** (db / 10), 0))
    return {
      heard,
      bands,
      levels,
      rings: known ?? ringsOf(this.#middles, sampleRateHz, hum),
      lowest,
      outline: outlineOf(decimate(outline, this.#halvings), this.#lowRateHz),
      rumble: findRumble({ levels, lowest, bands, hum }),
      harshness: findHarshness({ bands, heard, lowest }),
      hum,
      wideLowEnd: findWideLowEnd(bands, heard),
    }
  }
}

/** Mean power spectrum over time; middle and side add up to the mean over channels. */
class MeanSpectrum {
  #sum = new Float64Array(0)
  #frames = 0
  binHz = 1

  add(power: Float64Array, binHz: number, isMid: boolean): void {
    if (this.#sum.length === 0) this.#sum = new Float64Array(power.length)
    addTo(this.#sum, power)
    this.binHz = binHz
    if (isMid) this.#frames++
  }

  levels(bands: readonly Band[]): Float64Array {
    const power = sumIntoBands(this.#sum, this.binHz, bands)
    return power.map((p) => powerToDb(p / Math.max(1, this.#frames)))
  }
}

function addTo(sum: Float64Array, values: Float64Array): void {
  for (let i = 0; i < sum.length; i++) sum[i] += values[i]
}

function joinLevels(low: MeanSpectrum, high: MeanSpectrum): Float64Array {
  const fine = low.levels(LEVEL_BANDS)
  return high.levels(LEVEL_BANDS).map((db, i) => (LEVEL_BANDS[i].hz < SPLIT_HZ ? fine[i] : db))
}
