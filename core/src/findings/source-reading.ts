import { type Clip, decimate, powerToDb } from '../audio'
import { FRAMES_IN_A_ROW, type HearingBands, hearingBands, midOrSide } from '../hearing'
import { type Band, forEachSpectrum, type StftSettings, sumIntoBands } from '../spectrum'
import { type Outline, outlineOf } from './alignment'
import { findHarshness, type Harshness } from './harshness'
import { LEVEL_BANDS } from './level-bands'
import { type LowestNote, PitchProfile } from './pitch'
import { type Ring, RingFinder } from './resonance'
import { findRumble, type Rumble } from './rumble'
import { findWideLowEnd, type WideLowEnd } from './wide-low-end'

/** What is measured of one sound by itself: everything that findings need of it but its audio. */
export interface SourceReading {
  readonly bands: HearingBands
  /** Long-term level of each sixth of an octave in dB, power averaged over channels. */
  readonly levels: Float64Array
  /** Fixed resonances, those that stand out most first. */
  readonly rings: readonly Ring[]
  /** The lowest note that really occurs. */
  readonly lowest: LowestNote
  /** The middle seconds of the middle signal. */
  readonly outline: Outline
  readonly rumble: Rumble | null
  readonly harshness: Harshness | null
  readonly wideLowEnd: WideLowEnd | null
}

/** Low spectra and outlines are taken at about this sample rate. */
const LOW_RATE_HZ = 6000
const LOW: StftSettings = { size: 2048, hop: 1024, window: 'hann' }
/** Below this the low spectra count, above it the high ones. */
const SPLIT_HZ = 600
const OUTLINE_SECONDS = 24
/** Of a long passage the low range is read in a few stretches, and rings in rows of frames. */
const WHOLE_SECONDS = 60
const STRETCHES = 3
const STRETCH_SECONDS = 16
const MOST_RING_FRAMES = 1000

/**
 * Measures a clip. @param onProgress called now and then with the share done.
 * @param longest frames of the longest clip of the session.
 */
export function readSource(
  clip: Clip,
  onProgress: (share: number) => void = () => {},
  longest = clip.frames,
): SourceReading {
  const { sampleRateHz } = clip
  const [left, right] = clip.channels
  const mid = right ? midOrSide(left, right, 1) : left
  const side = right ? midOrSide(left, right, -1) : null
  const rings = new RingFinder()
  onProgress(0.05)

  // High range: one pass over frames serves hearing, levels and rings.
  const high = new MeanSpectrum()
  let frame = 0
  let seen = 0
  const bands = hearingBands(
    clip,
    {
      mid,
      side,
      visit(power, binHz, isMid, frames) {
        high.add(power, binHz, isMid)
        if (seen++ % 64 === 0) onProgress(0.05 + (0.65 * seen) / (frames * clip.channels.length))
        const every = Math.max(1, Math.ceil(frames / MOST_RING_FRAMES))
        if (isMid && frame++ % (FRAMES_IN_A_ROW * every) < FRAMES_IN_A_ROW) {
          rings.addHigh(power, binHz, SPLIT_HZ)
        }
      },
    },
    longest,
  )

  // Low range, at a low rate: fine bins without long transforms.
  const halvings = Math.max(1, Math.round(Math.log2(sampleRateHz / LOW_RATE_HZ)))
  const lowRate = sampleRateHz / 2 ** halvings
  const pitch = new PitchProfile(lowRate, LOW.size)
  const low = new MeanSpectrum()
  const binHz = lowRate / LOW.size
  const parts = stretches(clip)
  for (const [index, [from, to]] of parts.entries()) {
    onProgress(0.7 + (0.3 * index) / parts.length)
    forEachSpectrum(decimate(mid.subarray(from, to), halvings), LOW, (power) => {
      low.add(power, binHz, true)
      rings.addLow(power, binHz, SPLIT_HZ)
      pitch.add(power)
    })
    if (!side) continue
    onProgress(0.7 + (0.3 * (index + 0.6)) / parts.length)
    forEachSpectrum(decimate(side.subarray(from, to), halvings), LOW, (power) => {
      low.add(power, binHz, false)
    })
  }
  const middle = Math.max(0, (clip.frames - OUTLINE_SECONDS * sampleRateHz) / 2)
  const outline = mid.subarray(middle, middle + OUTLINE_SECONDS * sampleRateHz)
  const levels = joinLevels(low, high)
  const lowest = pitch.lowest()
  return {
    bands,
    levels,
    rings: rings.rings(),
    lowest,
    outline: outlineOf(decimate(outline, halvings), lowRate),
    rumble: findRumble({ levels, lowest, bands }),
    harshness: findHarshness({ bands, lowest }),
    wideLowEnd: findWideLowEnd(bands),
  }
}

/** The stretches in which the low range is read: all of a short passage. */
function stretches({ frames, sampleRateHz }: Clip): [number, number][] {
  if (frames <= WHOLE_SECONDS * sampleRateHz) return [[0, frames]]
  const length = STRETCH_SECONDS * sampleRateHz
  return Array.from({ length: STRETCHES }, (_, i) => {
    const from = Math.round(((frames - length) * (i + 0.5)) / STRETCHES)
    return [from, from + length]
  })
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
