import { DRAWN_LIMITS_DB, type DrawnCurve } from '../filters'
import { DocumentError } from './document-error'

const MOST_POINTS = 4096
const LEAST_HZ = 0.1
const MOST_HZ = 192_000
const HEADER = 'hz,db'

/**
 * Reads the points of a drawn curve as CSV: a header `hz,db`, then a point a line in rising order of frequency, from +24
 * down to -120 dB. Strict: what does not fit is told by its line, and nothing is half-read.
 * @throws DocumentError
 */
export function parseCurveCsv(text: string): DrawnCurve['points'] {
  const [header = '', ...lines] = text.replace(/^\uFEFF/, '').split(/\r?\n/)
  if (header.replace(/\s/g, '').toLowerCase() !== HEADER) {
    throw wrong(1, `its header is "${HEADER}", not "${header.slice(0, 40)}"`)
  }
  while (lines.length > 0 && lines[lines.length - 1].trim() === '') lines.pop()
  if (lines.length === 0) throw wrong(2, 'there is no point')
  if (lines.length > MOST_POINTS) throw wrong(MOST_POINTS + 2, `more than ${MOST_POINTS} points`)
  const [lowest, highest] = DRAWN_LIMITS_DB
  const points: { hz: number; db: number }[] = []
  lines.forEach((line, i) => {
    const at = i + 2
    const cells = line.split(',')
    if (cells.length !== 2) throw wrong(at, 'a point has two figures')
    const [hz, db] = cells.map(Number)
    if (cells.some((c) => c.trim() === '') || !Number.isFinite(hz) || !Number.isFinite(db)) {
      throw wrong(at, 'these are not two numbers')
    }
    if (hz !== 0 && (hz < LEAST_HZ || hz > MOST_HZ)) {
      throw wrong(at, `frequencies are 0, or ${LEAST_HZ} to ${MOST_HZ} Hz`)
    }
    if (db < lowest || db > highest) throw wrong(at, `gains lie from ${lowest} to ${highest} dB`)
    if (points.length > 0 && hz <= points[points.length - 1].hz) {
      throw wrong(at, 'points must be in rising order of frequency')
    }
    points.push({ hz, db })
  })
  return points
}

/** Writes points as {@link parseCurveCsv} reads them. */
export function writeCurveCsv(points: DrawnCurve['points']): string {
  return `${[HEADER, ...points.map(({ hz, db }) => `${hz},${db}`)].join('\n')}\n`
}

function wrong(line: number, reason: string): DocumentError {
  return new DocumentError(`The curve at line ${line} cannot be read: ${reason}.`)
}
