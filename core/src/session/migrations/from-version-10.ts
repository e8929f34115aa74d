import type { Loose } from './index'

/** Version 11 keeps variations, states of the session beside the one that stands, and blind tests between them. */
export function fromVersion10(document: Loose): Loose {
  return { ...document, version: 11, variations: { list: [], chains: {} }, blindTests: [] }
}
