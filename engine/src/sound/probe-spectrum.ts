import { powerToDb } from '@sober-prism/core/audio'
import { type Band, makeBands, powerSpectrum, sumIntoBands } from '@sober-prism/core/spectrum'

/** How fine a running spectrum is: its bands, and the length of the transform they are summed from. */
export const PROBE_RESOLUTIONS = {
  coarse: { layout: 'third', frames: 4096 },
  medium: { layout: 'sixth', frames: 8192 },
  fine: { layout: 'twelfth', frames: 16384 },
} as const
export type ProbeResolution = keyof typeof PROBE_RESOLUTIONS

/** Time constants of the running mean, in seconds. */
export const PROBE_SPEEDS = { fast: 0.05, medium: 0.3, slow: 2 } as const
export type ProbeSpeed = keyof typeof PROBE_SPEEDS

export interface ProbeSettings {
  readonly resolution: ProbeResolution
  readonly speed: ProbeSpeed
  /** The running mean of power, or the largest so far, falling by 20 dB in ten time constants. */
  readonly show: 'average' | 'peak'
}

const FALL_DB_PER_TIME_CONSTANT = 2

/** The bands of a resolution, at which a running spectrum is given. */
export function probeBands(resolution: ProbeResolution): readonly Band[] {
  return makeBands(PROBE_RESOLUTIONS[resolution].layout)
}

/** Power of a signal in fractional octaves, running on from call to call. */
export class ProbeSpectrum {
  readonly #bands: readonly Band[]
  readonly #spectrum: (signal: Float32Array) => Float64Array
  readonly #signal: Float32Array
  readonly #sums: Float64Array
  readonly #running: Float64Array
  #begun = false

  constructor(
    private readonly sampleRateHz: number,
    private readonly settings: ProbeSettings,
  ) {
    const { frames } = PROBE_RESOLUTIONS[settings.resolution]
    this.#bands = probeBands(settings.resolution)
    this.#spectrum = powerSpectrum({ size: frames, window: 'hann' })
    this.#signal = new Float32Array(frames)
    this.#sums = new Float64Array(this.#bands.length)
    this.#running = new Float64Array(this.#bands.length)
  }

  /** Frames that a call needs: those up to now. */
  get frames(): number {
    return this.#signal.length
  }

  /**
   * @param read fills its argument with the last frames.
   * @param seconds since the last call.
   * @returns level of each band in dB.
   */
  next(read: (out: Float32Array) => void, seconds: number): Float32Array {
    read(this.#signal)
    const binHz = this.sampleRateHz / this.#signal.length
    sumIntoBands(this.#spectrum(this.#signal), binHz, this.#bands, this.#sums)
    const steps = seconds / PROBE_SPEEDS[this.settings.speed]
    const keep = this.#begun ? Math.exp(-steps) : 0
    const fall = this.#begun ? 10 ** ((-FALL_DB_PER_TIME_CONSTANT * steps) / 10) : 0
    this.#begun = true
    for (let b = 0; b < this.#sums.length; b++) {
      const now = this.#sums[b]
      const before = this.#running[b]
      this.#running[b] =
        this.settings.show === 'peak'
          ? Math.max(now, fall * before)
          : keep * before + (1 - keep) * now
    }
    return Float32Array.from(this.#running, powerToDb)
  }
}
