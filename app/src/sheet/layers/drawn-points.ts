import { type DrawnCurveParams, MOST_POINTS } from '@sober-prism/core/treatments'

type Points = DrawnCurveParams['points']

/** Points stay at least so far apart, as a ratio. */
const APART = 1.0005

/** A new point in its place; the nearest one is moved where there is no room for it. */
export function pointAdded(points: Points, hz: number, db: number): Points {
  const near = points.findIndex((p) => p.hz / hz < APART && hz / p.hz < APART)
  if (near >= 0 || points.length >= MOST_POINTS) {
    return points.map((p, i) => (i === near ? { ...p, db } : p))
  }
  return [...points, { hz, db }].sort((a, b) => a.hz - b.hz)
}

/** A point moved, held between those beside it. */
export function pointMoved(points: Points, index: number, hz: number, db: number): Points {
  const low = index > 0 ? points[index - 1].hz * APART : 10
  const high = index < points.length - 1 ? points[index + 1].hz / APART : 40_000
  const held = Math.max(low, Math.min(high, hz))
  return points.map((p, i) =>
    i === index ? { hz: held, db: Math.max(-120, Math.min(24, db)) } : p,
  )
}
