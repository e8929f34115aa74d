import { bandEdgeHz, FILTER_COUNT } from '../hearing'
import type { Edit } from '../session'
import { newTreatment, respondChain, type StereoPart, type Treatment } from '../treatments'

/** Treatments that edits put on a node. */
export function addedTreatments(edits: readonly Edit[], node: string): Treatment[] {
  return edits.flatMap((edit): Treatment[] => {
    if (!('node' in edit) || edit.node !== node) return []
    if (edit.kind === 'add-treatment') return [edit.treatment]
    if (edit.kind !== 'add-band') return []
    const params = { phase: 'minimum' as const, bands: [edit.chainBand] }
    return [newTreatment('equaliser', edit.newTreatment, edit.stage, params)]
  })
}

/** Mean power gain of treatments between two frequencies, for the middle or the sides. */
export function meanPowerGain(
  treatments: readonly Treatment[],
  part: StereoPart,
  sampleRateHz: number,
  edges: readonly (readonly [number, number])[],
  readings: number,
): Float64Array {
  if (treatments.length === 0) return new Float64Array(edges.length).fill(1)
  const places = edges.flatMap(([low, high]) =>
    Array.from({ length: readings }, (_, i) => low + ((i + 0.5) / readings) * (high - low)),
  )
  const db = respondChain(treatments, sampleRateHz, part).db(places)
  return Float64Array.from(edges, (_, e) => {
    let sum = 0
    for (let i = 0; i < readings; i++) sum += 10 ** (db[e * readings + i] / 10)
    return sum / readings
  })
}

const FILTER_EDGES = Array.from(
  { length: FILTER_COUNT },
  (_, b) => [bandEdgeHz(b), bandEdgeHz(b + 1)] as const,
)

/** {@link meanPowerGain} over each auditory filter. */
export function filterPowerGains(
  treatments: readonly Treatment[],
  part: StereoPart,
  sampleRateHz: number,
): Float64Array {
  return meanPowerGain(treatments, part, sampleRateHz, FILTER_EDGES, 3)
}
