import type { AnyForm, TreatmentForm } from '../kind'
import {
  BAND_KINDS,
  type BandTreatment,
  type FileSplitParams,
  fileSplitParams,
  newSplitBand,
  type SplitParams,
  splitParams,
} from './params'

export {
  BAND_KINDS,
  type BandKind,
  type BandTreatment,
  MOST_IN_BAND,
  MOST_SPLITS,
  newSplitBand,
  type SplitBand,
  type SplitParams,
} from './params'

const formOf = (kind: string) => (BAND_KINDS as unknown as Record<string, AnyForm>)[kind]

/** Two to five bands that sum back, each with a chain, a level and a width of its own. */
export const split: TreatmentForm<'split', SplitParams, FileSplitParams> = {
  kind: 'split',
  name: 'Multiband',
  params: splitParams,
  takesKey: false,
  defaults: () => ({
    crossover: 'linkwitz-riley',
    slopeDbPerOct: 24,
    hz: [200, 2000],
    bands: [newSplitBand(), newSplitBand(), newSplitBand()],
  }),
  file: {
    params: fileSplitParams,
    read: (file) => ({
      ...file,
      bands: file.bands.map((band) => ({
        ...band,
        treatments: band.treatments.map(
          ({ kind, on, params }, i) =>
            ({
              id: `in-band-${i + 1}`,
              kind,
              on,
              params: formOf(kind).file.read(params),
            }) as BandTreatment,
        ),
      })),
    }),
    write: (params) => ({
      ...params,
      bands: params.bands.map((band) => ({
        ...band,
        treatments: band.treatments.map(({ kind, on, params: values }) => ({
          kind,
          on,
          params: formOf(kind).file.write(values),
        })),
      })),
    }),
  },
  rendered: (params) =>
    params.bands.some((b) => b.solo)
      ? { ...params, bands: params.bands.map((b) => ({ ...b, solo: false })) }
      : params,
  // The sum of a Linkwitz-Riley split turns the phase even while no band is touched.
  acts: () => true,
  describe: ({ hz, bands }) => {
    const inside = bands.reduce((sum, b) => sum + b.treatments.filter((t) => t.on).length, 0)
    const at = hz.map((f) => Number(f.toPrecision(3))).join(', ')
    return `crossovers ${at} Hz${inside > 0 ? `, ${inside} treated within` : ''}`
  },
}
