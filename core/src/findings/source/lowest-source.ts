import { LEVEL_BANDS } from '../level-bands'
import type { SourceReading } from './source-reading'

/** Where a source begins: what a low cut is placed under. */
export interface LowestSource {
  readonly hz: number
  /** Whether it is a note's fundamental; else the lowest range in which anything of weight sounds. */
  readonly isNote: boolean
}

/** A fundamental sounds where its range is no further under the loudest one than this, in dB. */
const SOUNDS_DB = 32

/**
 * The lowest note that occurs, where something sounds at its place. A chord repeats with a period at which nothing
 * sounds: then the lowest range above it that does. Null where no pitch can be followed.
 */
export function lowestSource({
  lowest,
  levels,
}: Pick<SourceReading, 'lowest' | 'levels'>): LowestSource | null {
  const { hz, isNote } = lowest
  if (hz === null) return null
  if (isNote) return { hz, isNote }
  const loudest = levels.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY)
  const first = LEVEL_BANDS.findIndex((b) => b.toHz > hz)
  // A note's power may lie in the range beside its own.
  const near = [first - 1, first, first + 1].some((i) => (levels[i] ?? -300) > loudest - SOUNDS_DB)
  if (near) return { hz, isNote: true }
  for (let i = first; i < levels.length; i++) {
    if (levels[i] > loudest - SOUNDS_DB) return { hz: LEVEL_BANDS[i].fromHz, isNote: false }
  }
  return null
}
