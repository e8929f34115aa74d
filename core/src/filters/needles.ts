import { DRAWN_LIMITS_DB, type DrawnCurve, drawnDb } from './drawn-curve'

/** The harmonics of a note. */
export interface Series {
  /** The first harmonic. */
  readonly hz: number
  readonly count: number
  /**
   * Inharmonicity of a stiff string: harmonic k stands at k·f·√(1 + Bk²), told from the first one, as measured
   * (Fletcher 1964, JASA 36, 203). 0 for exact multiples; about 0.0004 in the middle of a piano.
   */
  readonly stretch: number
}

/** The frequencies of a series, as far as they lie below `highestHz`. */
export function seriesHz({ hz, count, stretch }: Series, highestHz: number): number[] {
  const out: number[] = []
  for (let k = 1; k <= count; k++) {
    const at = k * hz * Math.sqrt((1 + stretch * k * k) / (1 + stretch))
    if (at >= highestHz) break
    out.push(at)
  }
  return out
}

/** A needle's floor is this part of its width; its sides take the rest. */
const FLOOR_SHARE = 1 / 3

/**
 * A curve with needles down to silence in it; what was drawn stays where no needle stands.
 * @param hz where they stand. @param widthHz how wide each is at its top, in Hz.
 */
export function withNeedles(
  curve: DrawnCurve,
  hz: readonly number[],
  widthHz: number,
): { hz: number; db: number }[] {
  const at = drawnDb(curve)
  const [silence] = DRAWN_LIMITS_DB
  const top = widthHz / 2
  const floor = top * FLOOR_SHARE
  // Needles that touch become one.
  const spans: { from: number; to: number }[] = []
  for (const f of [...hz].sort((a, b) => a - b)) {
    const last = spans.at(-1)
    if (last && f - top <= last.to + top) last.to = f
    else spans.push({ from: f, to: f })
  }
  const points = curve.points.filter(
    (p) => !spans.some(({ from, to }) => p.hz >= from - top && p.hz <= to + top),
  )
  const needles = spans.flatMap(({ from, to }) => [
    { hz: from - top, db: at(from - top) },
    { hz: from - floor, db: silence },
    { hz: to + floor, db: silence },
    { hz: to + top, db: at(to + top) },
  ])
  return [...points, ...needles].sort((a, b) => a.hz - b.hz)
}
