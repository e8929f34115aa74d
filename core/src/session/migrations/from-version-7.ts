import type { Loose } from './index'

/** Version 8 has a kind of treatment that parts a sound into bands; what version 7 had stands as it was. */
export function fromVersion7(document: Loose): Loose {
  return { ...document, version: 8 }
}
