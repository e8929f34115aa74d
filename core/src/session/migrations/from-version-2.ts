import type { Loose } from './index'
import { isObject, mapChains, mapObjects } from './loose'

/** A track could take the name of the mix. */
const TAKEN = 'mix'

/**
 * Version 2 had bands alone in a chain, one list per stage, with one phase mode for the whole chain. They become
 * one equaliser per stage. Tracks went straight into the mix.
 */
export function fromVersion2(document: Loose): Loose {
  const renamed = renameMix(document)
  const chained = mapChains(renamed, chainOf)
  return {
    ...chained,
    version: 3,
    groups: [],
    ...('tracks' in chained && {
      tracks: mapObjects(chained.tracks, (track) => ({ ...track, output: 'mix' })),
    }),
  }
}

function chainOf(chain: Loose): unknown {
  const { clean, fit, shape, phase, ...rest } = chain
  const stages = { clean, fit, shape }
  // What is spoiled is left for the schema to name.
  if (Object.values(stages).some((s) => !isObject(s) || !Array.isArray(s.moves))) return chain
  const treatments = Object.entries(stages).flatMap(([stage, list]) => {
    const { on, moves, ...odd } = list as Loose & { moves: unknown[] }
    if (moves.length === 0 && typeof on === 'boolean' && Object.keys(odd).length === 0) return []
    return [
      {
        id: `${stage}-equaliser`,
        stage,
        kind: 'equaliser',
        on,
        params: { phase, bands: moves },
        key: null,
        reason: '',
        evidence: null,
        ...odd,
      },
    ]
  })
  return { treatments, ...rest }
}

/** Gives a track that is called like the mix another id, wherever it is named. */
function renameMix(document: Loose): Loose {
  const ids = new Set<unknown>()
  mapObjects(document.tracks, (track) => ids.add(track.id))
  if (!ids.has(TAKEN)) return document
  let other = `${TAKEN}-1`
  for (let n = 2; ids.has(other); n++) other = `${TAKEN}-${n}`
  const lead = (id: unknown) => (id === TAKEN ? other : id)
  return {
    ...document,
    tracks: mapObjects(document.tracks, (track) => ({ ...track, id: lead(track.id) })),
    leadIds: Array.isArray(document.leadIds) ? document.leadIds.map(lead) : document.leadIds,
  }
}
