import { doubleFft } from '../spectrum'
import { sectionsResponse } from './biquad'
import { type FilterReading, type ReadableFilter, readFilter } from './reading'

/** A filter's complex answer at the bins of a transform, 0 Hz to half the sample rate; its latency is taken out. */
export interface FilterSpectrum {
  readonly re: Float64Array
  readonly im: Float64Array
}

/** A filter's answer at all `size / 2 + 1` bins of a transform of `size`, a power of two. */
export function filterSpectrum(filter: ReadableFilter, size: number): FilterSpectrum {
  const bins = size / 2 + 1
  const re = new Float64Array(bins).fill(1)
  const im = new Float64Array(bins)
  const multiply = (k: number, r: number, i: number) => {
    const next = re[k] * r - im[k] * i
    im[k] = re[k] * i + im[k] * r
    re[k] = next
  }
  for (const kernel of filter.kernels) {
    // A longer kernel is transformed at its own length, so that nothing of it is folded.
    const own = Math.max(size, 2 ** Math.ceil(Math.log2(kernel.length)))
    const spectrum = transformOf(kernel, own)
    for (let k = 0; k < bins; k++) {
      const at = 2 * k * (own / size)
      multiply(k, spectrum[at], spectrum[at + 1])
    }
  }
  for (let k = 0; k < bins; k++) {
    const { re: r, im: i } = sectionsResponse(filter.sections, k, size)
    multiply(k, r, i)
    const turn = (2 * Math.PI * k * filter.latency) / size
    multiply(k, Math.cos(turn), Math.sin(turn))
  }
  return { re, im }
}

/** {@link readFilter} with its kernels read by transforms: for long kernels at many frequencies. */
export function readDense(
  { sections, kernels, latency }: ReadableFilter,
  hz: ArrayLike<number>,
  rateHz: number,
): FilterReading[] {
  const exact = readFilter({ sections, kernels: [], latency: 0 }, hz, rateHz)
  if (kernels.length === 0 && latency === 0) return exact
  const own = latency / Math.max(1, kernels.length)
  const parts = kernels.map((kernel) => readKernel(kernel, own))
  return exact.map((reading) => {
    let { db, unwrappedDeg, groupDelayMs } = reading
    if (kernels.length === 0) {
      unwrappedDeg += (360 * reading.hz * latency) / rateHz
      groupDelayMs -= (1000 * latency) / rateHz
    }
    for (const { size, level, phase, delay } of parts) {
      const at = Math.min(size / 2, (reading.hz / rateHz) * size)
      const k = Math.min(size / 2 - 1, Math.floor(at))
      const between = (values: Float64Array) => values[k] + (at - k) * (values[k + 1] - values[k])
      db += between(level)
      unwrappedDeg += (between(phase) * 180) / Math.PI
      groupDelayMs += (1000 * between(delay)) / rateHz
    }
    const phaseDeg = unwrappedDeg - 360 * Math.round(unwrappedDeg / 360)
    return { hz: reading.hz, db, phaseDeg, unwrappedDeg, groupDelayMs }
  })
}

/** Bins between which a kernel is read as straight: so many for each of its taps. */
const READ_FACTOR = 4
const LEAST_SIZE = 8192

interface KernelReading {
  readonly size: number
  /** In dB, radians and frames at each bin, `latency` frames taken out. */
  readonly level: Float64Array
  readonly phase: Float64Array
  readonly delay: Float64Array
}

/** @param latency delay to be taken out, in frames. */
function readKernel(kernel: ArrayLike<number>, latency: number): KernelReading {
  const size = Math.max(LEAST_SIZE, 2 ** Math.ceil(Math.log2(READ_FACTOR * kernel.length)))
  const plain = transformOf(kernel, size)
  // Group delay is Re(Σ n h[n] e^{-jwn} / Σ h[n] e^{-jwn}).
  const ramped = transformOf(
    Float64Array.from(kernel, (v, n) => n * v),
    size,
  )
  const bins = size / 2 + 1
  const [level, phase, delay] = [0, 1, 2].map(() => new Float64Array(bins))
  let turns = 0
  let last = 0
  for (let k = 0; k < bins; k++) {
    const [re, im] = [plain[2 * k], plain[2 * k + 1]]
    const power = re * re + im * im
    level[k] = 10 * Math.log10(Math.max(1e-30, power))
    const raw = Math.atan2(im, re) + (2 * Math.PI * k * latency) / size
    turns += Math.round((last - raw) / (2 * Math.PI) - turns)
    phase[k] = raw + 2 * Math.PI * turns
    last = phase[k]
    delay[k] = power > 1e-30 ? (ramped[2 * k] * re + ramped[2 * k + 1] * im) / power - latency : 0
  }
  return { size, level, phase, delay }
}

function transformOf(kernel: ArrayLike<number>, size: number): Float64Array {
  const time = new Float64Array(size)
  time.set(kernel)
  return doubleFft(size).forward(time)
}
