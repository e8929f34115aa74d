import type { Loose } from './index'

/** In version 9 a band that follows may be all that lies below or above its corner; what version 8 had stands as it was. */
export function fromVersion8(document: Loose): Loose {
  return { ...document, version: 9 }
}
