import { type Clip, makeClip } from '../audio'
import { realFft } from '../spectrum'
import { type CrossoverSpec, makeCrossover } from './crossover'

const BLOCK = 4096

/** Each band of a clip, in time with the whole. */
export function splitClip(clip: Clip, spec: CrossoverSpec): Clip[] {
  const { sampleRateHz, channels, frames } = clip
  const crossover = makeCrossover(spec, sampleRateHz, channels.length)
  const out = Array.from({ length: crossover.bands }, () =>
    makeClip(
      sampleRateHz,
      channels.map(() => new Float32Array(frames)),
    ),
  )
  const input = channels.map(() => new Float32Array(BLOCK))
  const output = out.map(() => channels.map(() => new Float32Array(BLOCK)))
  const late = crossover.latency
  for (let from = 0; from < frames + late; from += BLOCK) {
    const count = Math.min(BLOCK, frames + late - from)
    input.forEach((block, c) => {
      block.fill(0)
      if (from < frames) block.set(channels[c].subarray(from, Math.min(frames, from + count)))
    })
    crossover.process(input, output, count)
    out.forEach((band, b) => {
      band.channels.forEach((channel, c) => {
        const to = from - late
        const skipped = Math.max(0, -to)
        if (skipped < count) channel.set(output[b][c].subarray(skipped, count), Math.max(0, to))
      })
    })
  }
  crossover.dispose()
  return out
}

/** What the bands of a crossover add up to while none of them is touched. */
export interface CrossoverSum {
  /** How far the sum is from flat at worst, from 20 Hz to 20 kHz, in dB. */
  readonly flatWithinDb: number
  /**
   * Level of what the sum differs by from the whole, against the whole, in dB; null for Linkwitz-Riley, whose sum turns
   * the phase and differs by that alone.
   */
  readonly nullDb: number | null
}

/** Splits a sound and adds the bands up again. */
export function crossoverSum(clip: Clip, spec: CrossoverSpec): CrossoverSum {
  const flatWithinDb = flatness(spec, clip.sampleRateHz)
  if (spec.kind === 'linkwitz-riley') return { flatWithinDb, nullDb: null }
  return { flatWithinDb, nullDb: nullDepth(clip, splitClip(clip, spec)) }
}

const FLAT_SIZE = 65_536
const [FLAT_FROM_HZ, FLAT_TO_HZ] = [20, 20_000]

/** By the answer to an impulse. */
function flatness(spec: CrossoverSpec, sampleRateHz: number): number {
  const impulse = new Float32Array(FLAT_SIZE)
  impulse[0] = 1
  const bands = splitClip(makeClip(sampleRateHz, [impulse]), spec)
  const sum = new Float32Array(FLAT_SIZE)
  for (const { channels } of bands) for (let i = 0; i < FLAT_SIZE; i++) sum[i] += channels[0][i]
  const spectrum = new Float32Array(FLAT_SIZE + 2)
  realFft(FLAT_SIZE).forward(sum, spectrum)
  let worst = 0
  for (let k = 0; k <= FLAT_SIZE / 2; k++) {
    const hz = (k * sampleRateHz) / FLAT_SIZE
    if (hz < FLAT_FROM_HZ || hz > FLAT_TO_HZ) continue
    const db = 10 * Math.log10(spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2 + 1e-30)
    worst = Math.max(worst, Math.abs(db))
  }
  return worst
}

function nullDepth({ channels, frames }: Clip, bands: readonly Clip[]): number {
  let [off, whole] = [0, 0]
  channels.forEach((channel, c) => {
    for (let i = 0; i < frames; i++) {
      let sum = 0
      for (const band of bands) sum += band.channels[c][i]
      off += (sum - channel[i]) ** 2
      whole += channel[i] ** 2
    }
  })
  return whole > 0 ? 10 * Math.log10(off / whole + 1e-20) : -200
}
