import type { EqBand } from '../../filters'
import type { StereoPart, TreatmentResponse, TreatmentWorkings } from '../kind'
import { designEqualiser, type EqualiserDesign } from './design'
import { activeBands, type EqualiserParams } from './params'
import { EqualiserProcessor } from './processor'

/** How the sound of `equaliser` is made. */
export const equaliserWorkings: TreatmentWorkings<EqualiserParams, EqualiserDesign> = {
  design: designEqualiser,
  isHeavy: (params) => params.phase !== 'minimum' && activeBands(params).length > 0,
  latency: (_, { fir }) => fir?.latency ?? 0,
  make: (sampleRateHz, channels) => new EqualiserProcessor(sampleRateHz, channels),
  response: respond,
}

function respond(
  params: EqualiserParams,
  { fir, sections }: EqualiserDesign,
  _: number,
  part: StereoPart,
): TreatmentResponse {
  const chainBands = activeBands(params).filter(({ band }) => touches(band.channel, part))
  return {
    sections: chainBands.flatMap(({ id }) => [...(sections[id] ?? [])]),
    kernels: (fir?.firs ?? []).map(
      ({ basis, kernels }) => kernels[basis === 'mid-side' && part === 'side' ? 1 : 0],
    ),
    // Of the kernels alone, which are centred: what the convolver adds is no part of what is read.
    latency: (fir?.firs ?? []).reduce((sum, { kernels }) => sum + (kernels[0].length - 1) / 2, 0),
    sign: 1,
    delayFrames: 0,
  }
}

/** Bands on one side alone count with the middle, as a picture of the whole shows them. */
function touches(channel: EqBand['channel'], part: StereoPart): boolean {
  return channel === 'stereo' || (part === 'side' ? channel === 'side' : channel !== 'side')
}
