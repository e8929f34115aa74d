import { type CrossoverSpec, designCrossover, partitionFor } from '../../filters'
import type { AnyWorkings, StereoPart, TreatmentWorkings } from '../kind'
import type { SplitBand, SplitDesign, SplitParams } from './params'
import { SplitProcessor } from './processor'

/** Crossovers stay so far below half the rate. */
const MOST_OF_NYQUIST = 0.96
/** How long the answer to an impulse is followed: longer than crossovers at 20 Hz ring to -60 dB. */
const ANSWER_SECONDS = 0.25

/**
 * How the sound of `split` is made.
 * @param workingsOf the workings of the kinds in its bands.
 */
export function splitWorkings(
  workingsOf: (kind: string) => AnyWorkings,
): TreatmentWorkings<SplitParams, SplitDesign> {
  const inBands = ({ bands }: SplitParams) =>
    bands.flatMap(({ treatments }, band) => treatments.map((t) => ({ ...t, band })))
  const design = (params: SplitParams, sampleRateHz: number): SplitDesign => {
    const spec = specOf(params, sampleRateHz)
    const inner = inBands(params).map(({ band, id, kind, params: values }) => [
      `${band} ${id}`,
      workingsOf(kind).design(values, sampleRateHz),
    ])
    return {
      spec,
      crossover: designCrossover(spec, sampleRateHz),
      inner: Object.fromEntries(inner),
    }
  }
  const chainLatency = ({ treatments }: SplitBand, i: number, { inner }: SplitDesign, ch: number) =>
    treatments
      .filter((t) => t.on)
      .reduce(
        (sum, { id, kind, params }) =>
          sum + workingsOf(kind).latency(params, inner[`${i} ${id}`], ch),
        0,
      )
  return {
    design,
    isHeavy: (params) =>
      params.crossover === 'linear' ||
      inBands(params).some(({ kind, params: values }) => workingsOf(kind).isHeavy(values)),
    latency: ({ bands }, made, channels) => {
      const taps = made.crossover[0]?.length ?? 0
      const own = taps > 0 ? (taps - 1) / 2 + partitionFor(taps) : 0
      return own + Math.max(...bands.map((band, i) => chainLatency(band, i, made, channels)))
    },
    make: (sampleRateHz, channels) => new SplitProcessor(sampleRateHz, channels, workingsOf),
    // What moves within the bands from moment to moment is left out of the picture, as it is elsewhere.
    response: (params, made, sampleRateHz, part) => {
      const bands = params.bands.map((band) => standing(band, part))
      const processor = new SplitProcessor(sampleRateHz, 1, workingsOf)
      processor.set({ ...params, bands }, made)
      const { latency } = processor
      const answer = new Float32Array(latency + Math.round(ANSWER_SECONDS * sampleRateHz))
      answer[0] = 1
      processor.process([answer], answer.length)
      processor.dispose()
      return { sections: [], kernels: [answer], latency, sign: 1, delayFrames: 0 }
    },
  }
  function standing(band: SplitBand, part: StereoPart): SplitBand {
    const { width } = band
    const treatments = band.treatments.filter((t) => workingsOf(t.kind).response !== null)
    if (part === 'mid') return { ...band, treatments }
    const levelDb = band.levelDb + 20 * Math.log10(Math.max(1e-6, width))
    return { ...band, treatments, levelDb }
  }
}

function specOf(
  { crossover, slopeDbPerOct, hz }: SplitParams,
  sampleRateHz: number,
): CrossoverSpec {
  const most = (MOST_OF_NYQUIST * sampleRateHz) / 2
  const last = hz.length - 1
  return {
    kind: crossover,
    slopeDbPerOct,
    hz: hz.map((f, i) => Math.min(f, most * 0.98 ** (last - i))),
  }
}
