import { type Biquad, designBand, type PhasePlan, planPhase } from '../../filters'
import { activeBands, type EqualiserParams } from './params'

/** What an equaliser needs ready-made: kernels of its phase mode, and exact sections of the other bands. */
export interface EqualiserDesign {
  readonly fir: PhasePlan | null
  /** Sections by the band's id. */
  readonly sections: Readonly<Record<string, readonly Biquad[]>>
}

export function designEqualiser(params: EqualiserParams, sampleRateHz: number): EqualiserDesign {
  const chainBands = activeBands(params)
  const plan =
    params.phase === 'minimum' || chainBands.length === 0
      ? null
      : planPhase(
          chainBands.map(({ id, band }) => ({ id, band })),
          params.phase,
          sampleRateHz,
        )
  const fir = plan && plan.firs.length > 0 ? plan : null
  const sections: Record<string, readonly Biquad[]> = {}
  for (const { id, band } of chainBands) {
    if (!fir?.inFir.includes(id))
      sections[id] = knownSections(JSON.stringify(band), band, sampleRateHz)
  }
  return { fir, sections }
}

/** Sections of the bands that were designed last: dragging one band leaves the others as they are. */
const known = new Map<string, readonly Biquad[]>()
const MOST_KNOWN = 2000

function knownSections(
  key: string,
  band: Parameters<typeof designBand>[0],
  sampleRateHz: number,
): readonly Biquad[] {
  const place = `${sampleRateHz} ${key}`
  let sections = known.get(place)
  if (!sections) {
    if (known.size >= MOST_KNOWN) known.clear()
    sections = designBand(band, sampleRateHz)
    known.set(place, sections)
  }
  return sections
}
