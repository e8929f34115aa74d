import { type Clip, decimate, powerToDb } from '../../audio'
import { makeWindow, realFft } from '../../spectrum'

/** How left and right stand to each other in the low end of a stretch. */
export interface LowEndReading {
  /** Columns in time; in each one value for each of {@link LOW_END_BANDS}. */
  readonly columns: number
  /** Correlation of left and right, -1 to 1; NaN where nothing of weight sounds. `columns × bands`. */
  readonly correlation: Float32Array
  /** Below the frequency that was asked for, in dB against full scale (mean square). */
  readonly below: {
    readonly left: number
    readonly right: number
    readonly mid: number
    readonly side: number
    /** What the mono sum has less than left and right have in the mean; 60 at most. */
    readonly monoLoss: number
  }
}

/** Octaves, in Hz. */
export const LOW_END_BANDS = [
  [20, 40],
  [40, 80],
  [80, 160],
  [160, 320],
  [320, 640],
] as const

const LOW_RATE_HZ = 3000
const SIZE = 512
const HOPS_IN_SIZE = 2
const MOST_COLUMNS = 120
/** Softer than the loudest place by more than this is of no weight, in dB. */
const WEIGHT_DB = 50
const MOST_LOSS_DB = 60

interface Powers {
  left: number
  right: number
  /** Real part of the cross power. */
  cross: number
}
const nothing = (): Powers => ({ left: 0, right: 0, cross: 0 })

/** Reads a clip of two channels; one of one is the same on both sides. */
export function readLowEnd({ channels, sampleRateHz }: Clip, hz: number): LowEndReading {
  const halvings = Math.max(0, Math.round(Math.log2(sampleRateHz / LOW_RATE_HZ)))
  const rate = sampleRateHz / 2 ** halvings
  const [left, right] = [channels[0], channels[1] ?? channels[0]].map((c) => decimate(c, halvings))
  const hop = SIZE / HOPS_IN_SIZE
  const frames = Math.max(1, 1 + Math.floor((left.length - SIZE) / hop))
  const columns = Math.min(MOST_COLUMNS, frames)
  const cells = Array.from({ length: columns * LOW_END_BANDS.length }, nothing)
  const below = nothing()
  const window = Float32Array.from(makeWindow('hann', SIZE))
  const [timeL, timeR] = [new Float32Array(SIZE), new Float32Array(SIZE)]
  const [specL, specR] = [new Float32Array(SIZE + 2), new Float32Array(SIZE + 2)]
  const fft = realFft(SIZE)
  const bandOf = bandsOfBins(rate)
  for (let f = 0; f < frames; f++) {
    for (let i = 0; i < SIZE; i++) {
      timeL[i] = window[i] * (left[f * hop + i] ?? 0)
      timeR[i] = window[i] * (right[f * hop + i] ?? 0)
    }
    fft.forward(timeL, specL)
    fft.forward(timeR, specR)
    const column = Math.floor((f * columns) / frames) * LOW_END_BANDS.length
    for (let bin = 1; bin < SIZE / 2; bin++) {
      const isBelow = (bin * rate) / SIZE <= hz
      if (bandOf[bin] < 0 && !isBelow) continue
      const [a, b] = [specL[2 * bin], specL[2 * bin + 1]]
      const [c, d] = [specR[2 * bin], specR[2 * bin + 1]]
      const [l, r, x] = [a * a + b * b, c * c + d * d, a * c + b * d]
      if (bandOf[bin] >= 0) add(cells[column + bandOf[bin]], l, r, x)
      if (isBelow) add(below, l, r, x)
    }
  }
  const most = cells.reduce((a, p) => Math.max(a, p.left + p.right), 0)
  const least = Math.max(1e-20, most * 10 ** (-WEIGHT_DB / 10))
  const energy = window.reduce((sum, w) => sum + w * w, 0)
  return {
    columns,
    correlation: Float32Array.from(cells, (p) =>
      p.left + p.right < least ? Number.NaN : p.cross / Math.sqrt(p.left * p.right + 1e-30),
    ),
    below: levelsOf(below, 2 / (SIZE * energy * frames)),
  }
}

function add(to: Powers, left: number, right: number, cross: number): void {
  to.left += left
  to.right += right
  to.cross += cross
}

function bandsOfBins(rate: number): Int8Array {
  return Int8Array.from({ length: SIZE / 2 + 1 }, (_, bin) => {
    const hz = (bin * rate) / SIZE
    return LOW_END_BANDS.findIndex(([from, to]) => hz >= from && hz < to)
  })
}

function levelsOf({ left, right, cross }: Powers, scale: number): LowEndReading['below'] {
  const mid = (left + right + 2 * cross) / 4
  const side = Math.max(0, (left + right - 2 * cross) / 4)
  const mean = (left + right) / 2
  const loss = mean > 0 ? -10 * Math.log10(Math.max(10 ** (-MOST_LOSS_DB / 10), mid / mean)) : 0
  return {
    left: powerToDb(left * scale),
    right: powerToDb(right * scale),
    mid: powerToDb(mid * scale),
    side: powerToDb(side * scale),
    monoLoss: loss,
  }
}
