/** How long what was is shown. */
export const SHOWN_MS = 20_000

/** How far bands were drawn at one moment, in dB: furthest down, and furthest up. */
export interface GainMoment {
  readonly at: number
  readonly lowest: number
  readonly highest: number
}

/** What was and what is now, without what is too long ago. */
export function withMoment(
  before: readonly GainMoment[],
  at: number,
  gains: ArrayLike<number>,
): readonly GainMoment[] {
  const kept = before.filter((m) => m.at > at - SHOWN_MS)
  if (gains.length === 0) return kept
  let [lowest, highest] = [0, 0]
  for (let i = 0; i < gains.length; i++) {
    lowest = Math.min(lowest, gains[i])
    highest = Math.max(highest, gains[i])
  }
  return [...kept, { at, lowest, highest }]
}
