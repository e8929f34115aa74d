import type { Loose } from './index'

export function isObject(value: unknown): value is Loose {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

/** Applies a change to every object of a list; anything else stays as it is. */
export function mapObjects(value: unknown, change: (item: Loose) => unknown): unknown {
  return Array.isArray(value) ? value.map((v) => (isObject(v) ? change(v) : v)) : value
}

/** Applies a change to the chains of all tracks and of the mix. */
export function mapChains(document: Loose, change: (chain: Loose) => unknown): Loose {
  const withChain = (owner: Loose) =>
    isObject(owner.chain) ? { ...owner, chain: change(owner.chain) } : owner
  return {
    ...document,
    ...('tracks' in document && { tracks: mapObjects(document.tracks, withChain) }),
    ...(isObject(document.mix) && { mix: withChain(document.mix) }),
  }
}
