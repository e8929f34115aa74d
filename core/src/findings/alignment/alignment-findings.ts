import { newTreatment } from '../../treatments'
import type { Finding } from '../finding'
import { type TracksContext, treatmentMove } from '../survey-input'
import { alignPair, lostInSum } from './alignment'

const LEAST_COHERENCE = 0.5
const LEAST_CANCELLED_DB = 1.5
/** A turn smaller than this is not worth a filter. */
const LEAST_TURN_DEG = 8

/** Pairs that carry one source and lose energy in their sum. */
export function alignmentFindings(
  { tracks, trial }: TracksContext,
  onProgress: (share: number) => void,
): Finding[] {
  const found: Finding[] = []
  for (let a = 0; a < tracks.length; a++) {
    onProgress(a / tracks.length)
    for (let b = a + 1; b < tracks.length; b++) {
      const pair = alignPair(
        tracks[a].reading.outline,
        tracks[b].reading.outline,
        tracks[b].gainDb - tracks[a].gainDb,
      )
      if (!pair || pair.coherence < LEAST_COHERENCE) continue
      // What carries one source and adds up is measured: after a move that lined it up one sees by how much.
      const isOffered = pair.lostDb >= LEAST_CANCELLED_DB
      const delayFrames = pair.delaySeconds * trial.sampleRateHz
      const indices = [a, b] as const
      const ids = [tracks[a].id, tracks[b].id] as [string, string]
      const moves = isOffered ? [treatmentMove(ids[1], lineUp(delayFrames, pair.turnDeg))] : []
      const lostAlignedDb = lostInSum(
        tracks[a].reading.outline,
        tracks[b].reading.outline,
        tracks[b].gainDb - tracks[a].gainDb,
        -pair.delaySeconds,
        pair.turnDeg,
      )
      found.push({
        key: `alignment ${ids.join(' ')}`,
        kind: 'alignment',
        tracks: ids,
        hz: Math.sqrt(pair.fromHz * pair.toHz),
        fromHz: pair.fromHz,
        toHz: pair.toHz,
        severity: !isOffered
          ? 0
          : trial.together(indices, pair.bestRatio) - trial.together(indices, pair.nowRatio),
        evidence: {
          kind: 'alignment',
          delayFrames,
          turnDeg: pair.turnDeg,
          coherence: pair.coherence,
          lostDb: pair.lostDb,
        },
        times: [],
        offered: isOffered,
        moves,
        predicted: !isOffered
          ? null
          : {
              measure: { of: 'cancelled', tracks: ids },
              before: pair.lostDb,
              after: lostAlignedDb,
            },
      })
    }
  }
  return found
}

/**
 * What lines the second of a pair up with the first: the delay undone to a hundredth of a frame, the polarity
 * turned where that is nearer, and the turn of phase that is left then.
 */
function lineUp(delayFrames: number, turnDeg: number) {
  const inverted = Math.abs(turnDeg) > 90
  const left = inverted ? turnDeg - Math.sign(turnDeg) * 180 : turnDeg
  return newTreatment('align', 'proposed', 'fit', {
    delayFrames: -Math.round(100 * delayFrames) / 100,
    polarity: inverted ? -1 : 1,
    turnDeg: Math.abs(left) < LEAST_TURN_DEG ? 0 : Math.round(left),
  })
}
