import * as z from 'zod'
import type { EqBand } from '../../filters'
import { PHASE_NAMES } from '../../filters'
import type { StereoPart, TreatmentKind, TreatmentResponse } from '../kind'
import { fileBandSchema, readFileBand, writeFileBand } from './band-file'
import { designEqualiser, type EqualiserDesign } from './design'
import { activeMarks, type EqualiserParams, equaliserParams, newMark } from './params'
import { EqualiserProcessor } from './processor'

const fileParams = z.strictObject({
  phase: z.enum(PHASE_NAMES).default('minimum'),
  bands: z.array(fileBandSchema).max(256),
})

/** Bands in series, in minimum, mixed or linear phase. */
export const equaliser: TreatmentKind<
  'equaliser',
  EqualiserParams,
  EqualiserDesign,
  z.infer<typeof fileParams>
> = {
  kind: 'equaliser',
  name: 'Equaliser',
  params: equaliserParams,
  takesKey: false,
  defaults: () => ({ phase: 'minimum', bands: [] }),
  file: {
    params: fileParams,
    read: ({ phase, bands }) => ({
      phase,
      bands: bands.map((band, i) => newMark(`band-${i + 1}`, readFileBand(band))),
    }),
    write: (params) => ({
      phase: params.phase,
      bands: activeMarks(params).map(({ band }) => writeFileBand(band)),
    }),
  },
  design: designEqualiser,
  isHeavy: (params) => params.phase !== 'minimum' && activeMarks(params).length > 0,
  latency: (_, { fir }) => fir?.latency ?? 0,
  make: (sampleRateHz, channels) => new EqualiserProcessor(sampleRateHz, channels),
  acts: (params) => activeMarks(params).length > 0,
  response: respond,
  describe(params) {
    const count = activeMarks(params).length
    const bands = count === 1 ? '1 band' : `${count} bands`
    return `${bands}, ${params.phase} phase`
  },
}

function respond(
  params: EqualiserParams,
  { fir, sections }: EqualiserDesign,
  _: number,
  part: StereoPart,
): TreatmentResponse {
  const marks = activeMarks(params).filter(({ band }) => touches(band.channel, part))
  return {
    sections: marks.flatMap(({ id }) => [...(sections[id] ?? [])]),
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
