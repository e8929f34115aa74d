import { amplitudeToDb, type Clip, powerToDb, sliceClip } from '../audio'
import { loudnessSteps, readLoudnessSteps, stepFrames, truePeakAmplitude } from '../loudness'
import { isShort, meanInBands, type SpectrumSum, sumSpectra } from '../spectrum'
import { LEVEL_BANDS } from './level-bands'

/** What is measured of a mix. */
export interface MixReading {
  /** Long-term level of each sixth of an octave in dB, power averaged over channels. */
  readonly levels: Float64Array
  /** `null` for silence. */
  readonly lufs: number | null
  readonly truePeakDbtp: number | null
  /** Loudness range (EBU Tech 3342), in LU; null of what is too short or silent. */
  readonly rangeLu: number | null
}

/** A stretch of a mix that is measured by itself, in frames. */
export interface MixPart {
  readonly fromFrame: number
  readonly toFrame: number
  /** What has to be rendered for it: filters hear a little before, peaks lie between samples. */
  readonly heardFrom: number
  readonly heardTo: number
}

/** What is measured of one part; {@link joinMixParts} makes a reading of all of them. */
export interface MixPartReading {
  readonly spectrum: SpectrumSum
  readonly steps: Float64Array
  readonly peak: number
}

const PART_SECONDS = 15
/** Of a long mix every other window, evenly spread, is enough for the mean. */
const LONG_STEP = 2

/**
 * Cuts a stretch into parts of about 15 s that can be rendered and measured at the same time.
 * @param marginSteps tenths of a second that are rendered besides, to either side.
 */
export function mixParts(
  fromFrame: number,
  toFrame: number,
  sampleRateHz: number,
  marginSteps = 2,
): MixPart[] {
  const step = stepFrames(sampleRateHz)
  const frames = toFrame - fromFrame
  const count = Math.max(1, Math.round(frames / (PART_SECONDS * sampleRateHz)))
  const length = Math.ceil(frames / count / step) * step
  return Array.from({ length: count }, (_, i) => {
    const from = fromFrame + i * length
    const to = Math.min(toFrame, from + length)
    return {
      fromFrame: from,
      toFrame: to,
      heardFrom: Math.max(fromFrame, from - marginSteps * step),
      heardTo: Math.min(toFrame, to + marginSteps * step),
    }
  })
}

/** Measures a part. @param heard the mix from `heardFrom` to `heardTo`. @param frames of the whole mix. */
export function readMixPart(heard: Clip, part: MixPart, frames: number): MixPartReading {
  const from = part.fromFrame - part.heardFrom
  const to = part.toFrame - part.heardFrom
  return {
    spectrum: sumSpectra(
      sliceClip(heard, from, to),
      isShort(frames, heard.sampleRateHz) ? 0.5 : LONG_STEP,
    ),
    steps: loudnessSteps(heard, from, to),
    peak: truePeakAmplitude(heard),
  }
}

/** Puts parts together, in the order of time. */
export function joinMixParts(parts: readonly MixPartReading[], sampleRateHz: number): MixReading {
  const peak = parts.reduce((most, p) => Math.max(most, p.peak), 0)
  const power = meanInBands(
    parts.map((p) => p.spectrum),
    sampleRateHz,
    LEVEL_BANDS,
  )
  const { integratedLufs, loudnessRangeLu } = readLoudnessSteps(parts.flatMap((p) => [...p.steps]))
  return {
    levels: power.map(powerToDb),
    lufs: integratedLufs,
    rangeLu: loudnessRangeLu,
    truePeakDbtp: peak > 1e-10 ? amplitudeToDb(peak) : null,
  }
}
