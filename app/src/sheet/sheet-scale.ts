import { hzToX, type RulerSpan, xToHz } from '../plot/ruler'

/** Levels on the equaliser sheet, from `topDb` down to `bottomDb`, with room for flags above. */
export interface SheetScale {
  readonly width: number
  readonly height: number
  readonly topDb: number
  readonly bottomDb: number
  /** What of the ruler is looked at; by default what is looked at now. */
  readonly span?: RulerSpan
}

const TOP = 26
const BOTTOM = 10

export function dbToY(db: number, { height, topDb, bottomDb }: SheetScale): number {
  return TOP + ((topDb - db) / (topDb - bottomDb)) * (height - TOP - BOTTOM)
}

export function yToDb(y: number, { height, topDb, bottomDb }: SheetScale): number {
  return topDb - ((y - TOP) / (height - TOP - BOTTOM)) * (topDb - bottomDb)
}

export function toHz(x: number, { width, span }: SheetScale): number {
  return xToHz(x, width, span)
}

export function toX(hz: number, { width, span }: SheetScale): number {
  return hzToX(hz, width, span)
}

/** A level held within the sheet. */
export function withinSheet(db: number, { topDb, bottomDb }: SheetScale): number {
  return Math.max(bottomDb, Math.min(topDb, db))
}

/** Levels with a line across the sheet, top first. */
export function sheetLines({ topDb, bottomDb, height }: SheetScale): number[] {
  const span = topDb - bottomDb
  const most = Math.max(FEWEST_LINES, height / LINE_PIXELS)
  const step = STEPS_DB.find((s) => span / s <= most) ?? span
  const lines: number[] = []
  for (let db = Math.floor(topDb / step) * step; db >= bottomDb; db -= step) lines.push(db)
  return lines
}

const STEPS_DB = [1, 2, 3, 6, 12, 24, 48]
const FEWEST_LINES = 4
const LINE_PIXELS = 30
