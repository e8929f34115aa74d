import { DelayLine, Ramp } from '../audio'
import { OVERSAMPLING, Oversampler } from './oversampler'

/** What drives a sound. */
export interface SaturatorSettings {
  /** Gain into the curve, taken out again for small signals. */
  readonly driveDb: number
  /** Share of the driven sound, 0 to 1. */
  readonly mix: number
  readonly outputDb: number
}

/**
 * Smooth saturation: tanh(g·x)/g at four times the rate, so that quiet sound passes with a gain of one, and what the
 * curve adds folds back less than -90 dB for tones up to 5 kHz at -6 dBFS; for higher ones docs/shape.md has figures. Bounded by 1/g. Gains glide.
 */
export class Saturator {
  readonly #oversamplers: Oversampler[]
  readonly #delay: DelayLine
  readonly #dry: Float32Array[] = []
  readonly #drive = new Ramp(1)
  readonly #mix = new Ramp(1)
  readonly #output = new Ramp(1)
  /** Gains of a block, frame by frame. */
  #gains = new Float64Array(0)
  readonly #shape = (samples: Float64Array, at: number, frame: number) => {
    const gain = this.#gains[frame]
    for (let i = at; i < at + OVERSAMPLING; i++) {
      // tanh by one exponential.
      samples[i] = (1 - 2 / (Math.exp(2 * gain * samples[i]) + 1)) / gain
    }
  }

  constructor(
    private readonly sampleRateHz: number,
    channels: number,
  ) {
    this.#oversamplers = Array.from({ length: channels }, () => new Oversampler())
    this.#delay = new DelayLine(channels, Oversampler.latency)
  }

  get latency(): number {
    return Oversampler.latency
  }

  /** @param atOnce before the first sound; else values glide. */
  set({ driveDb, mix, outputDb }: SaturatorSettings, atOnce: boolean): void {
    const values = [10 ** (driveDb / 20), mix, 10 ** (outputDb / 20)]
    const ramps = [this.#drive, this.#mix, this.#output]
    ramps.forEach((ramp, i) => {
      if (atOnce) ramp.jumpTo(values[i])
      else ramp.moveTo(values[i], this.sampleRateHz)
    })
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#makeRoom(frames)
    for (let c = 0; c < channels.length; c++) this.#dry[c].set(channels[c].subarray(0, frames))
    this.#delay.process(this.#dry, frames)
    for (let i = 0; i < frames; i++) this.#gains[i] = this.#drive.next()
    for (let c = 0; c < channels.length; c++) {
      this.#oversamplers[c].process(channels[c], frames, this.#shape)
    }
    for (let i = 0; i < frames; i++) {
      const mix = this.#mix.next()
      const output = this.#output.next()
      for (let c = 0; c < channels.length; c++) {
        const dry = this.#dry[c][i]
        channels[c][i] = output * (dry + mix * (channels[c][i] - dry))
      }
    }
  }

  reset(): void {
    for (const o of this.#oversamplers) o.reset()
    this.#delay.reset()
  }

  /** Only blocks longer than any before need memory. */
  #makeRoom(frames: number): void {
    if (this.#dry.length > 0 && this.#dry[0].length >= frames) return
    this.#dry.length = 0
    this.#gains = new Float64Array(Math.max(128, frames))
    for (const _ of this.#oversamplers) this.#dry.push(new Float32Array(Math.max(128, frames)))
  }
}
