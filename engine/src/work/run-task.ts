import type { Clip, WavBits } from '@sober-prism/core/audio'
import { makeClip, scaled, writeWav } from '@sober-prism/core/audio'
import {
  chainKernels,
  panGains,
  renderMix,
  renderOverBed,
  renderTrack,
} from '@sober-prism/core/chain'
import {
  planMoves,
  predictMoves,
  readMixPart,
  readSource,
  type SourceReading,
  surveyMix,
  surveyTracks,
} from '@sober-prism/core/findings'
import { maskPatterns, slicePatterns, trackPatterns } from '@sober-prism/core/hearing'
import { measureLoudness, truePeakDbtp } from '@sober-prism/core/loudness'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import type { MeasuredTrack, TaskName, Tasks } from './tasks'

type Progress = (share: number) => void
type Runner<N extends TaskName> = (input: Tasks[N]['in'], onProgress: Progress) => Tasks[N]['out']

const SIXTHS = makeBands('sixth')

const runners: { [N in TaskName]: Runner<N> } = {
  track(input, onProgress) {
    const clip = treated(input, (share) => onProgress(0.3 * share))
    const reading = (share: number) => onProgress(0.3 + 0.7 * share)
    if (clip.channels.length === 1 && input.pan === 0) return measureMiddle(clip, reading)
    return measureTrack(panned(clip, input.pan), reading)
  },
  mixPart({ plan, audio, sampleRateHz, part, frames, bed }) {
    const stretch = { fromFrame: part.heardFrom, toFrame: part.heardTo }
    const heard = bed
      ? renderOverBed(plan, audio, sampleRateHz, stretch, bed)
      : renderMix(plan, audio, sampleRateHz, stretch)
    return readMixPart(heard, part, frames)
  },
  kernels({ chain, sampleRateHz }) {
    return { kernels: chainKernels(chain, sampleRateHz) }
  },
  mixLoudness({ plan, audio, sampleRateHz, stretch, bypass }, onProgress) {
    const options = { bypass: { of: bypass }, onProgress }
    const clip = renderMix(plan, audio, sampleRateHz, stretch, options)
    return { lufs: measureLoudness(clip).integratedLufs }
  },
  clip({ audio, sampleRateHz }) {
    return measure(makeClip(sampleRateHz, audio))
  },
  overview({ plan, audio, stretch, buckets }) {
    const low = new Float32Array(buckets)
    const high = new Float32Array(buckets)
    const frames = stretch.toFrame - stretch.fromFrame
    const sum = new Float32Array(Math.ceil(frames / buckets) + 1)
    for (let b = 0; b < buckets; b++) {
      const from = stretch.fromFrame + Math.floor((b * frames) / buckets)
      const to = stretch.fromFrame + Math.floor(((b + 1) * frames) / buckets)
      sum.fill(0)
      for (const track of plan.tracks) {
        const channels = audio.get(track.id)
        if (!channels || !track.audible) continue
        const gain = 10 ** (track.faderDb / 20) / channels.length
        for (const channel of channels) {
          const end = Math.min(to, channel.length + track.offsetFrames)
          for (let i = Math.max(from, track.offsetFrames); i < end; i++) {
            sum[i - from] += channel[i - track.offsetFrames] * gain
          }
        }
      }
      for (let i = 0; i < to - from; i++) {
        if (sum[i] < low[b]) low[b] = sum[i]
        if (sum[i] > high[b]) high[b] = sum[i]
      }
    }
    return { low, high }
  },
  patterns({ track, calibration, mode }) {
    const made = trackPatterns(track, calibration, mode, 0, track.bands.frames)
    return { ...made, excitation: toShared(made.excitation), sides: toShared(made.sides) }
  },
  masking({ patterns, from, to }) {
    return maskPatterns(patterns.map((p) => slicePatterns(p, from, to)))
  },
  trackFindings({ survey }, onProgress) {
    return { findings: surveyTracks(survey, onProgress) }
  },
  mixFindings({ survey }, onProgress) {
    return { findings: surveyMix(survey, onProgress) }
  },
  predict({ survey, measure, moves }) {
    return { prediction: predictMoves(survey, measure, moves) }
  },
  plan({ survey, findings }, onProgress) {
    return { plan: planMoves(survey, findings, undefined, onProgress) }
  },
  renderMix({ plan, audio, sampleRateHz, stretch, bits }, onProgress) {
    const clip = renderMix(plan, audio, sampleRateHz, stretch, {
      onProgress: (share) => onProgress(share * 0.8),
    })
    return finished(clip, bits)
  },
  renderTrack(input, onProgress) {
    return finished(
      treated(input, (share) => onProgress(share * 0.8)),
      input.bits,
    )
  },
}

/** Runs one task to its end. */
export function runTask<N extends TaskName>(
  name: N,
  input: Tasks[N]['in'],
  onProgress: Progress,
): Tasks[N]['out'] {
  return (runners[name] as Runner<N>)(input, onProgress)
}

function treated(input: Tasks['track']['in'], onProgress: Progress): Clip {
  const { chain, audio, offsetFrames, sampleRateHz, stretch } = input
  return renderTrack(chain, audio, offsetFrames, sampleRateHz, stretch, onProgress)
}

/** A mono track in the middle: both sides carry it 3 dB down, so that one measurement tells both. */
function measureMiddle(clip: Clip, onProgress: Progress): MeasuredTrack {
  const { levels, ...rest } = measureTrack(clip, onProgress)
  return { ...rest, levels: levels.map((db) => db + MIDDLE_DB) }
}

function measureTrack(clip: Clip, onProgress: Progress): MeasuredTrack {
  const { integratedLufs: lufs } = measureLoudness(clip)
  onProgress(0.15)
  const reading = readSource(clip, (part) => onProgress(0.15 + 0.85 * part))
  return { levels: reading.levels, lufs, reading: share(reading) }
}

const MIDDLE_DB = 10 * Math.log10(0.5)

/** A rendered clip as a file, with its figures. */
function finished(clip: Clip, bits: WavBits) {
  const { integratedLufs } = measureLoudness(clip)
  return { bytes: writeWav(clip, bits), lufs: integratedLufs, truePeakDbtp: truePeakDbtp(clip) }
}

/** A track as it is placed in the mix, before its fader. */
function panned(clip: Clip, pan: number): Clip {
  const [left, right] = panGains(pan, clip.channels.length)
  const [a, b = a] = clip.channels
  if (a !== b && left === 1 && right === 1) return clip
  return makeClip(clip.sampleRateHz, [scaled(a, left), scaled(b, right)])
}

function measure(clip: Clip): { levels: Float64Array; lufs: number | null } {
  return { levels: longTermLevels(clip, SIXTHS), lufs: measureLoudness(clip).integratedLufs }
}

/** Long arrays move to shared memory, because several workers read them next. */
function share(reading: SourceReading): SourceReading {
  const { bands, outline } = reading
  return {
    ...reading,
    bands: { ...bands, mid: toShared(bands.mid), side: toShared(bands.side) },
    outline: { ...outline, spectra: toShared(outline.spectra) },
  }
}

function toShared<T extends Float32Array | Float64Array>(values: T): T {
  const Kind = values.constructor as new (buffer: SharedArrayBuffer) => T
  const shared = new Kind(new SharedArrayBuffer(values.byteLength))
  shared.set(values)
  return shared
}
