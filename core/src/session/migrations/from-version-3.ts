import type { Loose } from './index'

/** Version 3 did not say what is listened with; it was loudspeakers. */
export function fromVersion3(document: Loose): Loose {
  return { ...document, version: 4, listening: 'speakers' }
}
