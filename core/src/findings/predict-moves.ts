import type { EqBand } from '../session'
import { lostInSum } from './alignment'
import type { Measure, Owner, Prediction, ProposedMove } from './finding'
import { readMeasure } from './measure'
import { makeContext, type SurveyTracks } from './survey-input'

/** What moves other than the proposed ones would do to the measure of a finding: the model is run on them. */
export function predictMoves(
  survey: SurveyTracks & { readonly mixLevels: Float64Array | null },
  measure: Measure,
  moves: readonly ProposedMove[],
): Prediction {
  switch (measure.of) {
    case 'heard':
      return predictHeard(survey, measure, moves)
    case 'cancelled':
      return predictSum(survey, measure, moves)
    case 'level':
    case 'sides': {
      const bands = bandsOf(moves, measure.track)
      const { sampleRateHz } = survey.settings
      return {
        measure,
        before: readMeasure(measure, survey),
        after: readMeasure(measure, survey, { owner: measure.track, bands, sampleRateHz }),
      }
    }
  }
}

function bandsOf(moves: readonly ProposedMove[], owner: Owner): EqBand[] {
  return moves.flatMap((m) => (m.kind === 'band' && m.owner === owner ? [m.band] : []))
}

function predictHeard(
  survey: SurveyTracks,
  measure: Extract<Measure, { of: 'heard' }>,
  moves: readonly ProposedMove[],
): Prediction {
  const { trial } = makeContext(survey)
  const share = () => {
    const { aloneSone, inMixSone } = trial.loudness[measure.track]
    return aloneSone > 0 ? inMixSone / aloneSone : 1
  }
  const before = share()
  for (const track of survey.tracks.keys()) {
    const bands = bandsOf(moves, track)
    if (bands.length > 0) trial.apply(track, bands)
  }
  return { measure, before, after: share() }
}

function predictSum(
  { tracks, settings }: SurveyTracks,
  measure: Extract<Measure, { of: 'cancelled' }>,
  moves: readonly ProposedMove[],
): Prediction {
  const [a, b] = measure.tracks.map((t) => tracks[t])
  let laterSeconds = 0
  let invert = false
  for (const move of moves) {
    if (move.kind !== 'align') continue
    const sign = move.owner === measure.tracks[1] ? 1 : -1
    laterSeconds += (sign * move.shiftFrames) / settings.sampleRateHz
    invert = invert !== move.invert
  }
  const gainDb = b.gainDb - a.gainDb
  const lost = (seconds: number, turned: boolean) =>
    lostInSum(a.reading.outline, b.reading.outline, gainDb, seconds, turned)
  return { measure, before: lost(0, false), after: lost(laterSeconds, invert) }
}
