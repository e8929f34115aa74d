import { alignPair } from './alignment'
import type { Finding } from './finding'
import type { TracksContext } from './survey-input'

const LEAST_COHERENCE = 0.5
const LEAST_CANCELLED_DB = 1.5

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
      if (pair.lostDb < LEAST_CANCELLED_DB) continue
      const delayFrames = Math.round(pair.delaySeconds * trial.sampleRateHz)
      const tracksOfPair = [a, b] as const
      found.push({
        key: `alignment ${a} ${b}`,
        kind: 'alignment',
        tracks: tracksOfPair,
        hz: Math.sqrt(pair.fromHz * pair.toHz),
        fromHz: pair.fromHz,
        toHz: pair.toHz,
        severity:
          trial.together(tracksOfPair, pair.bestRatio) -
          trial.together(tracksOfPair, pair.nowRatio),
        evidence: {
          kind: 'alignment',
          delayFrames,
          turnDeg: pair.turnDeg,
          coherence: pair.coherence,
          lostDb: pair.lostDb,
        },
        times: [],
        moves: [
          {
            kind: 'align',
            owner: b,
            shiftFrames: -delayFrames,
            invert: Math.abs(pair.turnDeg) > 90,
          },
        ],
        predicted: {
          measure: { of: 'cancelled', tracks: tracksOfPair },
          before: pair.lostDb,
          after: pair.lostAlignedDb,
        },
      })
    }
  }
  return found
}
