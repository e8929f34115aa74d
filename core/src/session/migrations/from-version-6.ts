import type { Loose } from './index'
import { mapObjects } from './loose'

/** Version 7 keeps passages by name, of a reference what is listened to, and what a rendered mix is brought to. */
export function fromVersion6(document: Loose): Loose {
  const listened = (reference: Loose) => ({ ...reference, passage: null })
  return {
    ...document,
    version: 7,
    passages: [],
    normalise: null,
    ...('references' in document && { references: mapObjects(document.references, listened) }),
  }
}
