import { readMeasure } from '@sober-prism/core/findings'
import { type Measure, NO_HUM_DB } from '@sober-prism/core/treatments'
import type { Analysis } from './analysis'

/** What a move was to change, as it is measured now; null where it is not known. */
export function measureNow(
  measure: Measure,
  analysis: Pick<Analysis, 'heard' | 'cancelled' | 'tracks' | 'mix'>,
): number | null {
  switch (measure.of) {
    case 'heard':
      return analysis.heard.get(measure.track)?.share ?? null
    case 'understood':
      return analysis.heard.get(measure.track)?.understood ?? null
    case 'hum': {
      const result = analysis.tracks.get(measure.track)
      return result ? (result.reading.hum?.levelDb ?? NO_HUM_DB) : null
    }
    case 'cancelled':
      return analysis.cancelled.get(measure.tracks.join(' ')) ?? null
    case 'level':
    case 'sides':
    case 'low-in-mono': {
      const result = analysis.tracks.get(measure.track)
      const sources = {
        tracks: result ? [{ id: measure.track, reading: result.reading }] : [],
        mixLevels: analysis.mix?.levels ?? null,
      }
      const value = readMeasure(measure, sources)
      return Number.isFinite(value) ? value : null
    }
  }
}
