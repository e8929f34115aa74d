import * as z from 'zod'
import { PHASE_NAMES } from '../../filters'
import type { TreatmentForm } from '../kind'
import { fileBandSchema, readFileBand, writeFileBand } from './band-file'
import { activeBands, type EqualiserParams, equaliserParams, newChainBand } from './params'

const fileParams = z.strictObject({
  phase: z.enum(PHASE_NAMES).default('minimum'),
  bands: z.array(fileBandSchema).max(256),
})

/** Bands in series, in minimum, mixed or linear phase. */
export const equaliser: TreatmentForm<'equaliser', EqualiserParams, z.infer<typeof fileParams>> = {
  kind: 'equaliser',
  name: 'Equaliser',
  params: equaliserParams,
  takesKey: false,
  defaults: () => ({ phase: 'minimum', bands: [] }),
  file: {
    params: fileParams,
    read: ({ phase, bands }) => ({
      phase,
      bands: bands.map((band, i) => newChainBand(`band-${i + 1}`, readFileBand(band))),
    }),
    write: (params) => ({
      phase: params.phase,
      bands: activeBands(params).map(({ band }) => writeFileBand(band)),
    }),
  },
  acts: (params) => activeBands(params).length > 0,
  describe(params) {
    const count = activeBands(params).length
    const bands = count === 1 ? '1 band' : `${count} bands`
    return `${bands}, ${params.phase} phase`
  },
}
