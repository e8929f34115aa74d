import type { Loose } from './index'
import { mapObjects } from './loose'

/** Version 7 keeps passages by name, the place in a reference from which one listens, and what a rendered mix is brought to. */
export function fromVersion6(document: Loose): Loose {
  const listened = (reference: Loose) => ({ ...reference, fromFrame: null })
  return {
    ...document,
    version: 7,
    passages: [],
    normalise: null,
    ...('references' in document && { references: mapObjects(document.references, listened) }),
  }
}
