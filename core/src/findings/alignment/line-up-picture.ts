import type { Clip } from '../../audio'
import { type Band, forEachSpectrum, sumIntoBands } from '../../spectrum'
import { mono } from './align-clips'

/** What lining up does, to be looked at. */
export interface LineUpPicture {
  /** What the sum gains in each octave, in dB; null where neither has anything of weight. */
  readonly bands: readonly { readonly hz: number; readonly gainDb: number | null }[]
  /** Both at the lead's strongest stroke, each as large as the lead at its largest; the stroke begins at `at`. */
  readonly stroke: {
    readonly lead: Float32Array
    readonly before: Float32Array
    readonly after: Float32Array
    readonly at: number
  }
}

const OCTAVES: readonly Band[] = [63, 125, 250, 500, 1000, 2000, 4000, 8000].map((hz) => ({
  hz,
  fromHz: hz / Math.SQRT2,
  toHz: hz * Math.SQRT2,
}))
const SIZE = 4096
/** Further under the loudest octave than this is of no weight, in dB. */
const WEIGHT_DB = 40
/** A stroke is power that rises from before to after. */
const [BEFORE_SECONDS, AFTER_SECONDS] = [0.02, 0.005]
/** What is drawn of it. */
const [SHOWN_BEFORE_SECONDS, SHOWN_AFTER_SECONDS] = [0.004, 0.016]

/** @param other as it was. @param aligned the same lined up; all three of one length. */
export function lineUpPicture(lead: Clip, other: Clip, aligned: Clip): LineUpPicture {
  const rate = lead.sampleRateHz
  const [first, before, after] = [lead, other, aligned].map(mono)
  const [sumBefore, sumAfter] = [before, after].map((own) => octaves(first, own, rate))
  const most = sumBefore.reduce((a, b) => Math.max(a, b), 1e-30)
  const bands = OCTAVES.map(({ hz }, i) => ({
    hz,
    gainDb:
      Math.max(sumBefore[i], sumAfter[i]) < most * 10 ** (-WEIGHT_DB / 10)
        ? null
        : 10 * Math.log10((sumAfter[i] + 1e-30) / (sumBefore[i] + 1e-30)),
  }))
  const stroke = strokeIn(first, rate)
  const from = Math.max(0, stroke - Math.round(SHOWN_BEFORE_SECONDS * rate))
  const to = stroke + Math.round(SHOWN_AFTER_SECONDS * rate)
  const [a, b, c] = [first, before, after].map((signal) => signal.slice(from, to))
  const largest = peak(a)
  return {
    bands,
    stroke: {
      lead: a,
      before: scaledTo(b, largest),
      after: scaledTo(c, largest),
      at: stroke - from,
    },
  }
}

/** Power of the sum of two signals in octaves. */
function octaves(first: Float32Array, second: Float32Array, rate: number): Float64Array {
  const out = new Float64Array(OCTAVES.length)
  const sum = first.map((v, i) => v + (second[i] ?? 0))
  forEachSpectrum(sum, { size: SIZE, hop: SIZE / 2, window: 'hann' }, (power) => {
    sumIntoBands(power, rate / SIZE, OCTAVES).forEach((p, i) => {
      out[i] += p
    })
  })
  return out
}

/** The frame from which the power rises most. */
function strokeIn(signal: Float32Array, rate: number): number {
  const before = Math.max(1, Math.round(BEFORE_SECONDS * rate))
  const after = Math.max(1, Math.round(AFTER_SECONDS * rate))
  let [behind, ahead] = [0, 0]
  for (let i = 0; i < Math.min(after, signal.length); i++) ahead += signal[i] ** 2
  let best = 0
  let most = 0
  for (let i = 0; i + after < signal.length; i++) {
    const rise = ahead / after - (2 * behind) / before
    if (rise > most) {
      most = rise
      best = i
    }
    behind += signal[i] ** 2 - (i >= before ? signal[i - before] ** 2 : 0)
    ahead += signal[i + after] ** 2 - signal[i] ** 2
  }
  return best
}

function peak(signal: Float32Array): number {
  return signal.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
}

function scaledTo(signal: Float32Array, largest: number): Float32Array {
  const own = peak(signal)
  return own > 0 ? signal.map((v) => (v * largest) / own) : signal
}
