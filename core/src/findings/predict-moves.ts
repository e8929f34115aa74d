import type { EqBand } from '../filters'
import type { Edit } from '../session'
import { type Measure, NO_HUM_DB, respondChain } from '../treatments'
import { lostInSum } from './alignment/alignment'
import { addedTreatments } from './effects'
import type { Prediction } from './finding'
import { makeMoves } from './masking/trial-moves'
import { readMeasure } from './measure'
import { understoodIn } from './own/understood'
import { makeContext, type SurveyTracks } from './survey-input'

/** What other edits than the proposed ones would do to the measure of a finding: the model is run on them. */
export function predictMoves(
  survey: SurveyTracks & { readonly mixLevels: Float64Array | null },
  measure: Measure,
  moves: readonly Edit[],
): Prediction {
  switch (measure.of) {
    case 'heard':
      return predictHeard(survey, measure, moves)
    case 'cancelled':
      return predictSum(survey, measure, moves)
    case 'hum':
      return predictHum(survey, measure, moves)
    case 'understood': {
      const read = (made: readonly Edit[]) =>
        understoodIn(survey, measure.track, made)?.sii ?? Number.NaN
      return { measure, before: read([]), after: read(moves) }
    }
    case 'level':
    case 'sides':
    case 'low-in-mono': {
      const { sampleRateHz } = survey.settings
      return {
        measure,
        before: readMeasure(measure, survey),
        after: readMeasure(measure, survey, { moves, sampleRateHz }),
      }
    }
  }
}

/** Bands that edits add to a node. */
export function bandsOf(moves: readonly Edit[], node: string): EqBand[] {
  return moves.flatMap((m) => (m.kind === 'add-band' && m.node === node ? [m.chainBand.band] : []))
}

function predictHeard(
  survey: SurveyTracks,
  measure: Extract<Measure, { of: 'heard' }>,
  moves: readonly Edit[],
): Prediction {
  const { trial } = makeContext(survey)
  const target = survey.tracks.findIndex((t) => t.id === measure.track)
  const share = () => {
    const { aloneSone, inMixSone } = trial.loudness[target] ?? { aloneSone: 0, inMixSone: 0 }
    return aloneSone > 0 ? inMixSone / aloneSone : 1
  }
  const before = share()
  makeMoves(
    trial,
    survey.tracks.map((t) => t.id),
    moves,
    new Map(survey.tracks.map((t) => [t.id, t.faderDb])),
  )
  return { measure, before, after: share() }
}

/** Lines that lose so much are under what lies beside them. */
const TAKEN_DB = 20

function predictHum(
  { tracks, settings }: SurveyTracks,
  measure: Extract<Measure, { of: 'hum' }>,
  moves: readonly Edit[],
): Prediction {
  const hum = tracks.find((t) => t.id === measure.track)?.reading.hum
  if (!hum) return { measure, before: NO_HUM_DB, after: NO_HUM_DB }
  const lines = hum.harmonics.map((h) => h.number * hum.hz)
  const left = respondChain(addedTreatments(moves, measure.track), settings.sampleRateHz, 'mid')
    .db(lines)
    .reduce((sum, db) => sum + 10 ** (db / 10) / lines.length, 0)
  const changeDb = 10 * Math.log10(left + 1e-12)
  const after = changeDb < -TAKEN_DB ? NO_HUM_DB : hum.levelDb + changeDb
  return { measure, before: hum.levelDb, after }
}

function predictSum(
  { tracks, settings }: SurveyTracks,
  measure: Extract<Measure, { of: 'cancelled' }>,
  moves: readonly Edit[],
): Prediction {
  const pair = measure.tracks.map((id) => tracks.find((t) => t.id === id))
  const [a, b] = pair
  if (!a || !b) return { measure, before: 0, after: 0 }
  let laterSeconds = 0
  let turnDeg = 0
  for (const [index, { id }] of [a, b].entries()) {
    const sign = index === 1 ? 1 : -1
    for (const t of addedTreatments(moves, id)) {
      if (t.kind !== 'align') continue
      laterSeconds += (sign * t.params.delayFrames) / settings.sampleRateHz
      turnDeg += sign * t.params.turnDeg + (t.params.polarity === -1 ? 180 : 0)
    }
  }
  const gainDb = b.gainDb - a.gainDb
  const lost = (seconds: number, turn: number) =>
    lostInSum(a.reading.outline, b.reading.outline, gainDb, seconds, turn)
  return { measure, before: lost(0, 0), after: lost(laterSeconds, turnDeg) }
}
