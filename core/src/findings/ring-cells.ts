/** Cells over log frequency in which rings are looked for: 48 an octave from 80 Hz to 12 kHz. */
const LOWEST_HZ = 80
const HIGHEST_HZ = 12000
const PER_OCTAVE = 48
export const CELLS = Math.floor(PER_OCTAVE * Math.log2(HIGHEST_HZ / LOWEST_HZ)) + 1

/** Half-widths of rings that are looked for, in cells: Q from about 40 down to 10. */
const HALF_WIDTHS = [1, 2, 3, 4] as const
/** A ring is compared with the cells beside it, up to four tenths of an octave outside it. */
const FLANK_CELLS = 20
/** Cells that must have been seen on either side. */
const LEAST_FLANK = 3
/** Sightings beyond this number do not make a cell weigh more. */
const FULL_WEIGHT = 12
/** Two more rings do not make a place usual. */
const USUAL_RANK = 2
/** Scatter is not taken for less than this, in dB. */
const LEAST_SCATTER_DB = 0.6

export function cellOf(hz: number): number {
  return Math.round(PER_OCTAVE * Math.log2(hz / LOWEST_HZ))
}

const cellHz = Float64Array.from(
  { length: CELLS },
  (_, cell) => LOWEST_HZ * 2 ** (cell / PER_OCTAVE),
)

/** Centre of a cell; places between cells are read on the same scale. */
export function hzOfCell(cell: number): number {
  return cellHz[cell] ?? LOWEST_HZ * 2 ** (cell / PER_OCTAVE)
}

/** Mean height of each cell over the time, with how often it was seen and how much heights scattered. */
export interface CellHeights {
  readonly mean: ArrayLike<number>
  readonly count: ArrayLike<number>
  /** Mean of the squares of heights. */
  readonly square: ArrayLike<number>
}

/** Where a few cells stand out of those beside them. */
export interface StandOut {
  readonly cell: number
  readonly half: number
  readonly hz: number
  readonly q: number
  readonly db: number
  readonly score: number
  readonly visits: number
  /** Mean height itself, not against the cells beside. */
  readonly height: number
  /** How much heights scatter over time here, against the cells beside: what comes and goes scatters more. */
  readonly unrest: number
}

/** Places that stand out, best first, at most one within a stretch of twenty cells. */
export function standOuts(heights: CellHeights, accept: (s: StandOut) => boolean): StandOut[] {
  const all: StandOut[] = []
  for (let cell = 0; cell < CELLS; cell++) {
    for (const half of HALF_WIDTHS) {
      const found = judge(heights, cell, half)
      if (found && accept(found)) all.push(found)
    }
  }
  all.sort((a, b) => strength(b) - strength(a))
  const chosen: StandOut[] = []
  for (const s of all) {
    if (chosen.every((o) => Math.abs(o.cell - s.cell) > FLANK_CELLS)) chosen.push(s)
  }
  return chosen
}

/** How much a place stands out, for comparing places of one sound. */
export function strength({ db, score }: StandOut): number {
  return db * score
}

/** By what factor a place stands out more than what is usual in its sound: the third of the others. */
export function prominence(place: StandOut, all: readonly StandOut[]): number {
  const others = all.filter((o) => o !== place).map(strength)
  const usual = others.sort((a, b) => b - a)[USUAL_RANK] ?? 1
  return strength(place) / Math.max(1, usual)
}

function judge({ mean, count, square }: CellHeights, cell: number, half: number): StandOut | null {
  let visits = 0
  let sum = 0
  let squares = 0
  const first = Math.max(0, cell - half + 1)
  const last = Math.min(CELLS - 1, cell + half - 1)
  for (let c = first; c <= last; c++) {
    if (count[c] === 0) continue
    visits += count[c]
    sum += mean[c] * count[c]
    squares += square[c] * count[c]
  }
  if (visits === 0) return null
  const height = sum / visits
  const flank = fitFlanks(mean, count, cell, half)
  if (!flank || height <= flank.level) return null
  const scatter = Math.sqrt(Math.max(0, squares / visits - height * height))
  const db = height - flank.level
  const doubt = Math.max(LEAST_SCATTER_DB, scatter) / Math.sqrt(visits)
  const octaves = (2 * half - 1) / PER_OCTAVE
  return {
    cell,
    half,
    hz: hzOfCell(centreOf(mean, count, cell, half, db)),
    q: 1 / (2 ** (octaves / 2) - 2 ** (-octaves / 2)),
    db,
    score: db / Math.max(LEAST_SCATTER_DB, Math.hypot(flank.scatter, doubt)),
    visits,
    height,
    unrest: scatter / Math.max(LEAST_SCATTER_DB, scatterBeside(mean, count, square, cell, half)),
  }
}

/** Mean scatter over time of the cells on both sides. */
function scatterBeside(
  mean: ArrayLike<number>,
  count: ArrayLike<number>,
  square: ArrayLike<number>,
  cell: number,
  half: number,
): number {
  let sum = 0
  let cells = 0
  for (let away = 2 * half + 1; away <= 2 * half + FLANK_CELLS; away++) {
    for (const c of [cell - away, cell + away]) {
      if (!(count[c] > 0)) continue
      sum += Math.sqrt(Math.max(0, square[c] - mean[c] ** 2))
      cells++
    }
  }
  return cells > 0 ? sum / cells : 0
}

/** A weighted straight line through the cells on both sides, read at the middle, and the scatter about it. */
function fitFlanks(
  mean: ArrayLike<number>,
  count: ArrayLike<number>,
  cell: number,
  half: number,
): { level: number; scatter: number } | null {
  const cells = { below: 0, above: 0 }
  let weight = 0
  let x = 0
  let y = 0
  const each = (visit: (away: number, weight: number, height: number) => void) => {
    for (let away = 2 * half + 1; away <= 2 * half + FLANK_CELLS; away++) {
      for (const offset of [-away, away]) {
        const n = count[cell + offset] ?? 0
        if (n > 0) visit(offset, Math.min(n, FULL_WEIGHT), mean[cell + offset])
      }
    }
  }
  each((away, w, height) => {
    cells[away < 0 ? 'below' : 'above']++
    weight += w
    x += w * away
    y += w * height
  })
  if (Math.min(cells.below, cells.above) < LEAST_FLANK) return null
  x /= weight
  y /= weight
  let xx = 0
  let xy = 0
  each((away, w, height) => {
    xx += w * (away - x) ** 2
    xy += w * (away - x) * (height - y)
  })
  const slope = xy / xx
  let squares = 0
  each((away, w, height) => {
    squares += w * (height - y - slope * (away - x)) ** 2
  })
  return { level: y - slope * x, scatter: Math.sqrt(squares / weight) }
}

/** Centre of what stands above half the height. */
function centreOf(
  mean: ArrayLike<number>,
  count: ArrayLike<number>,
  cell: number,
  half: number,
  db: number,
): number {
  let weight = 0
  let place = 0
  for (let c = Math.max(0, cell - half); c <= Math.min(CELLS - 1, cell + half); c++) {
    if (count[c] === 0) continue
    const w = Math.min(count[c], FULL_WEIGHT) * Math.max(0, mean[c] - mean[cell] + 0.5 * db)
    weight += w
    place += w * c
  }
  return weight > 0 ? place / weight : cell
}
