import { hzToX, xToHz } from '../plot/ruler'

/** Levels on the equaliser sheet: ±`rangeDb` around the zero line, with room for flags above. */
export interface SheetScale {
  readonly width: number
  readonly height: number
  readonly rangeDb: number
}

const TOP = 26
const BOTTOM = 10

export function dbToY(db: number, { height, rangeDb }: SheetScale): number {
  const middle = TOP + (height - TOP - BOTTOM) / 2
  return middle - (db / rangeDb) * ((height - TOP - BOTTOM) / 2)
}

export function yToDb(y: number, { height, rangeDb }: SheetScale): number {
  const middle = TOP + (height - TOP - BOTTOM) / 2
  return ((middle - y) / ((height - TOP - BOTTOM) / 2)) * rangeDb
}

export function toHz(x: number, { width }: SheetScale): number {
  return xToHz(x, width)
}

export function toX(hz: number, { width }: SheetScale): number {
  return hzToX(hz, width)
}
