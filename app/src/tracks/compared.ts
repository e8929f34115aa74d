import { MIX } from '@sober-prism/core/treatments'
import type { Desk, FrequencyRange, Rendition } from '@sober-prism/engine'

/** The reference that is heard in place of the mix; null for the mix. */
export function heardReference(rendition: Rendition | undefined): string | null {
  return rendition?.kind === 'reference' ? rendition.reference : null
}

/** The range that is compared between mix and references; null for all of it. */
export function comparedRange(rendition: Rendition | undefined): FrequencyRange | null {
  if (rendition?.kind === 'range') return rendition.node === MIX ? rendition.range : null
  return rendition?.kind === 'reference' ? rendition.range : null
}

/**
 * Lets a reference be heard in place of the mix, or the mix again; only a range of either while one is compared.
 * @throws EngineError when its loudness cannot be measured.
 */
export async function hearCompared(
  desk: Desk,
  reference: string | null,
  range = comparedRange(desk.heard.value?.rendition),
): Promise<void> {
  if (reference !== null) return desk.hear({ kind: 'reference', reference, range })
  if (range) return desk.hear({ kind: 'range', node: MIX, range })
  desk.stopHearing()
}
