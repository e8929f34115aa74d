import { CELLS, PER_OCTAVE } from './level-grid'

/** Cells of a flank on either side. */
const FLANK = 20
/** Scatter is not taken for less than this, in dB. */
const LEAST_SCATTER_DB = 0.5
const LEAST_REMAINDER_DB = 0.4
/** A bell is fitted over this many cells to either side. */
const FIT = 30
const POINTS = 2 * FIT + 1

const at = (values: ArrayLike<number>, c: number) => values[Math.max(0, Math.min(CELLS - 1, c))]

/** Mean of the 2h-1 cells around each one, against that of the 20 cells beyond on both sides together. In dB. */
export function box(values: ArrayLike<number>, half: number): Float64Array {
  const pad = 2 * half + 1 + FLANK
  const sums = new Float64Array(CELLS + 2 * pad + 1)
  for (let i = 0; i < CELLS + 2 * pad; i++) sums[i + 1] = sums[i] + at(values, i - pad)
  const sum = (from: number, to: number) => sums[to + 1 + pad] - sums[from + pad]
  return Float64Array.from({ length: CELLS }, (_, c) => {
    const inner = sum(c - half + 1, c + half - 1) / (2 * half - 1)
    const below = sum(c - 2 * half - 1 - FLANK, c - 2 * half - 2)
    const above = sum(c + 2 * half + 2, c + 2 * half + 1 + FLANK)
    return inner - (below + above) / (2 * FLANK)
  })
}

/** A box of two against its own scatter over the sound. */
export function standardBox(values: ArrayLike<number>): Float64Array {
  const boxed = box(values, 2)
  const middle = median(boxed)
  const scatter = 1.48 * median(boxed.map((v) => Math.abs(v - middle)))
  return boxed.map((v) => v / Math.max(LEAST_SCATTER_DB, scatter))
}

function median(values: Float64Array): number {
  return Float64Array.from(values).sort()[values.length >> 1] ?? 0
}

/** The widths of bells that are fitted. */
export const BELL_QS = [8, 14, 24] as const
export type BellQ = (typeof BELL_QS)[number]

/** An orthonormal basis: 1, x, x², and what a bell has beyond them, with the length of that. */
interface Basis {
  readonly plain: readonly Float64Array[]
  readonly bell: Float64Array
  readonly norm: number
}

const bases = new Map<BellQ, Basis>(BELL_QS.map((q) => [q, makeBasis(q)]))

/** dB curve of a 10 dB peaking filter, 1 at its top. */
function bellCurve(q: number): Float64Array {
  const a = 10 ** (1 / 4)
  const value = (d: number) => {
    const ratio = 2 ** (d / PER_OCTAVE)
    const w = q * (ratio - 1 / ratio)
    return Math.log10((w * w + a * a) / (w * w + 1 / (a * a)))
  }
  const top = value(0)
  return Float64Array.from({ length: POINTS }, (_, i) => value(i - FIT) / top)
}

function makeBasis(q: BellQ): Basis {
  const plain: Float64Array[] = []
  for (const power of [0, 1, 2]) {
    plain.push(
      beyond(
        Float64Array.from({ length: POINTS }, (_, i) => ((i - FIT) / FIT) ** power),
        plain,
      ).vector,
    )
  }
  const { vector, norm } = beyond(bellCurve(q), plain)
  return { plain, bell: vector, norm }
}

/** What a vector has beyond others that are orthonormal, made a unit long. */
function beyond(vector: Float64Array, others: readonly Float64Array[]) {
  const out = vector.slice()
  for (const other of others) {
    const along = dot(vector, other)
    for (let i = 0; i < out.length; i++) out[i] -= along * other[i]
  }
  const norm = Math.sqrt(dot(out, out))
  return { vector: out.map((v) => v / norm), norm }
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i]
  return sum
}

/** How high the bell of a Q stands at each cell by least squares, in dB, and how far that is out of the remainder. */
export function fitBell(
  values: ArrayLike<number>,
  q: BellQ,
): { readonly db: Float64Array; readonly t: Float64Array } {
  const { plain, bell, norm } = bases.get(q) as Basis
  const db = new Float64Array(CELLS)
  const t = new Float64Array(CELLS)
  const window = new Float64Array(POINTS)
  for (let c = 0; c < CELLS; c++) {
    for (let i = 0; i < POINTS; i++) window[i] = at(values, c + i - FIT)
    const along = dot(window, bell)
    let rest = dot(window, window) - along * along
    for (const p of plain) rest -= dot(window, p) ** 2
    db[c] = along / norm
    t[c] = db[c] / Math.max(LEAST_REMAINDER_DB, Math.sqrt(Math.max(0, rest) / POINTS))
  }
  return { db, t }
}
