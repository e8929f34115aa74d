import type { Loose } from './index'

/** Version 5 has kinds of treatment that follow a key; what version 4 had stands as it was. */
export function fromVersion4(document: Loose): Loose {
  return { ...document, version: 5 }
}
