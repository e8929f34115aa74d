import type { Finding } from '../finding'

/** A stretch of a track that a move could give back to it. */
export interface WinnablePlace {
  /** Key of the finding whose move gives it back. */
  readonly finding: string
  readonly track: string
  readonly fromHz: number
  readonly toHz: number
  /** Where what covers it stands. */
  readonly where: 'middle' | 'sides'
  /** Harm beside the worst one's, 0 to 1. */
  readonly weight: number
}

/**
 * Places of less harm than this part of the worst one's are not worth the eye's attention. Compared on the demo, where
 * 20 stretches are covered: all findings leave 4 places, this share 3, a third of the worst 1.
 */
const WORTH_SHARE = 0.1
const MOST_PLACES = 4

/**
 * The few places worth work: where one track takes from another more than company must cost, a move was found that
 * gives it back, and the harm is not small beside the worst. What any company costs is not among them.
 * @param findings with the harm beyond the cost of company as severity, in any order.
 */
export function winnablePlaces(findings: readonly Finding[]): WinnablePlace[] {
  const masking = findings
    .filter((f) => f.evidence.kind === 'masking' && f.moves.length > 0)
    .sort((a, b) => b.severity - a.severity)
  const worst = masking[0]?.severity ?? 0
  return masking
    .filter((f) => f.severity >= WORTH_SHARE * worst)
    .slice(0, MOST_PLACES)
    .flatMap(({ key, evidence, fromHz, toHz, severity }): WinnablePlace[] =>
      evidence.kind === 'masking'
        ? [
            {
              finding: key,
              track: evidence.target,
              fromHz,
              toHz,
              where: evidence.where,
              weight: severity / worst,
            },
          ]
        : [],
    )
}
