import { amplitudeToDb } from '../audio'
import { LoudnessMeter } from './loudness-meter'
import { TruePeakMeter } from './true-peak'

/** What a finished file is labelled with; null where it is silent, or too short or soft to have a loudness. */
export interface OutputFigures {
  readonly lufs: number | null
  readonly truePeakDbtp: number | null
}

const SILENT = 1e-10

/** Integrated loudness and true peak of a sound that comes piece by piece. */
export class OutputMeter {
  readonly #loudness: LoudnessMeter
  readonly #peak: TruePeakMeter

  constructor(sampleRateHz: number, channels: number) {
    this.#loudness = new LoudnessMeter(sampleRateHz, channels)
    this.#peak = new TruePeakMeter(channels)
  }

  add(piece: readonly Float32Array[]): void {
    this.#loudness.add(piece)
    this.#peak.add(piece)
  }

  /** The figures of all that was added; nothing may be added after it. */
  finish(): OutputFigures {
    const amplitude = this.#peak.finish()
    return {
      lufs: this.#loudness.read().integratedLufs,
      truePeakDbtp: amplitude > SILENT ? amplitudeToDb(amplitude) : null,
    }
  }
}
