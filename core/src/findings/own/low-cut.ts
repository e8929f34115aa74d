import { type EqBand, newBand } from '../../filters'
import { activeBands, type Treatment } from '../../treatments'
import { lowestSource } from '../source/lowest-source'
import type { SourceReading } from '../source/source-reading'

/** Roll-off under most low voices lies at 65 Hz, under high ones at 130 to 140: so much of the lowest fundamental. */
const UNDER_NOTE = 0.62
/** A low cut that stands no further than an octave under what is proposed answers it: what lies between them is next to nothing. */
const NEAR = 0.5

/**
 * The one low cut that is proposed for a sound, wherever it is: what takes its rumble out, or where it has none, one below
 * its lowest note. Null where no pitch can be followed.
 */
export function proposeLowCut(
  reading: Pick<SourceReading, 'lowest' | 'levels' | 'rumble'>,
): EqBand | null {
  if (reading.rumble) return reading.rumble.cut
  const source = lowestSource(reading)
  if (!source) return null
  return { ...newBand('low-cut', Math.round(UNDER_NOTE * source.hz)), slopeDbPerOct: 24 }
}

/** The highest low cut that is on among treatments, in Hz; null where none is. */
export function lowCutMade(treatments: readonly Treatment[]): number | null {
  const cuts = treatments.flatMap((t) =>
    t.kind === 'equaliser' && t.on
      ? activeBands(t.params).flatMap(({ band }) => (band.type === 'low-cut' ? [band.hz] : []))
      : [],
  )
  return cuts.length > 0 ? Math.max(...cuts) : null
}

/** Whether a chain has a low cut that does what another one would. */
export function isLowCutMade(
  treatments: readonly Treatment[],
  { hz }: Pick<EqBand, 'hz'>,
): boolean {
  return (lowCutMade(treatments) ?? 0) >= NEAR * hz
}
