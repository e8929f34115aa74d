import { readMeasure } from '@sober-prism/core/findings'
import type { MoveMeasure } from '@sober-prism/core/session'
import type { Analysis } from './analysis'

/** What a move was to change, as it is measured now; null where it is not known. */
export function measureNow(measure: MoveMeasure, analysis: Analysis): number | null {
  switch (measure.of) {
    case 'heard':
      return analysis.heard.get(measure.track)?.share ?? null
    case 'cancelled':
      return analysis.cancelled.get(measure.tracks.join(' ')) ?? null
    case 'level':
    case 'sides': {
      const result = measure.track === 'mix' ? undefined : analysis.tracks.get(measure.track)
      const sources = {
        tracks: result ? [result] : [],
        mixLevels: analysis.mix?.levels ?? null,
      }
      const value =
        measure.of === 'sides'
          ? readMeasure({ ...measure, track: 0 }, sources)
          : readMeasure({ ...measure, track: measure.track === 'mix' ? 'mix' : 0 }, sources)
      return Number.isFinite(value) ? value : null
    }
  }
}
