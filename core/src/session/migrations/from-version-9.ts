import type { Loose } from './index'
import { isObject, mapObjects } from './loose'

/** Kinds of version 9 that do the same to a sound before a gain as behind it. */
const LINEAR = new Set(['equaliser', 'drawn-curve', 'align', 'low-middle', 'match'])

/**
 * In version 10 the gain of working levels stands ahead of the chain, as the node's trim. Until then it stood at the
 * chain's end; it moves where that changes nothing of the sound: no treatment in between depends on level.
 */
export function fromVersion9(document: Loose): Loose {
  return {
    ...document,
    version: 10,
    ...('tracks' in document && { tracks: mapObjects(document.tracks, withTrim) }),
    ...('groups' in document && { groups: mapObjects(document.groups, withTrim) }),
    ...(isObject(document.mix) && { mix: withTrim(document.mix) }),
  }
}

function withTrim(node: Loose): Loose {
  const { chain } = node
  if (!isObject(chain) || !isObject(chain.output)) return { ...node, trimDb: 0 }
  const { trimDb, ...output } = chain.output
  const moves = Array.isArray(chain.treatments) && chain.treatments.every(isLinear)
  return {
    ...node,
    trimDb: moves ? trimDb : 0,
    chain: { ...chain, output: { ...output, gainDb: moves ? 0 : trimDb } },
  }
}

function isLinear(treatment: unknown): boolean {
  return isObject(treatment) && typeof treatment.kind === 'string' && LINEAR.has(treatment.kind)
}
