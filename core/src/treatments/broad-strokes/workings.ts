import { Oversampler } from '../../dynamics'
import { type Biquad, designBand } from '../../filters'
import type { TreatmentWorkings } from '../kind'
import { type BroadStrokesParams, strokeBands } from './params'
import { BroadStrokesProcessor } from './processor'

/** Sections of the controls by their names. */
export interface BroadStrokesDesign {
  readonly sections: Readonly<Record<string, readonly Biquad[]>>
}

/** How the sound of `broad-strokes` is made. */
export const broadStrokesWorkings: TreatmentWorkings<BroadStrokesParams, BroadStrokesDesign> = {
  design: (params, sampleRateHz) => ({
    sections: Object.fromEntries(
      strokeBands(params).map(({ id, band }) => [id, designBand(band, sampleRateHz)]),
    ),
  }),
  isHeavy: () => false,
  latency: ({ driveDb }) => (driveDb > 0 ? Oversampler.latency : 0),
  make: (sampleRateHz, channels) => new BroadStrokesProcessor(sampleRateHz, channels),
  // The tone is drawn; drive depends on the level.
  response: ({ polarity }, { sections }) => ({
    sections: Object.values(sections).flat(),
    kernels: [],
    latency: 0,
    sign: polarity,
    delayFrames: 0,
  }),
}
