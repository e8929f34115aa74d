import type { Loose } from './index'

/** Version 6 has kinds of treatment that match and shape; what version 5 had stands as it was. */
export function fromVersion5(document: Loose): Loose {
  return { ...document, version: 6 }
}
