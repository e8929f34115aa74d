import { type AnalogueSection, polyPower } from './analogue'
import type { Biquad } from './biquad'
import { polynomialRoots } from './polynomial-roots'
import { numeratorGivesPoles, QUICK_STRIDE, quickSection } from './quick-design'

/** Where the two extra poles of an exact section lie: z = -EXTRA_POLE. */
const EXTRA_POLE = 0.42
/** A second-order fit within this error needs no extra section, in dB; shared by sections in series. */
const GOOD_ENOUGH_DB = 0.02
/** The band over which curves are matched, as a share of the rate, and in Hz. */
const TOP_SHARE = 0.4755
const TOP_HZ = 20000
/** Weight of points between the top of the band and the Nyquist frequency, which keep the fit sane. */
const BEYOND_WEIGHT = 0.02
/** Iterations of reweighting towards equal errors (Lawson 1961). */
const REWEIGHTS = 4

/**
 * Two digital sections in series whose magnitude follows an analogue section up to the top of the band;
 * the second may change nothing.
 *
 * The poles are those of the analogue section by impulse invariance (as in Vicanek 2016, *Matched Second
 * Order Digital Filters*), joined by two real poles near the Nyquist frequency. The numerator's squared
 * magnitude is a polynomial in sin²(w/2), fitted to the analogue one in relative terms and taken apart
 * into zeros inside the unit circle, so that the inverse is stable too. A section and its inverse are
 * designed as one and turned over: a cut undoes the equal boost exactly.
 * @param shareOfError part of the tolerated error that this section may make.
 */
export function matchSection(
  analogue: AnalogueSection,
  rateHz: number,
  shareOfError = 1,
): [Biquad, Biquad] {
  // The side with the lower or sharper roots gives the poles; the other is fitted.
  const inverse = numeratorGivesPoles(...analogue.n, ...analogue.d)
  const poles = inverse ? analogue.n : analogue.d
  const zeros = inverse ? analogue.d : analogue.n
  const problem = makeProblem(poles, zeros, rateHz)
  const grid = makeGrid(problem)
  const simple = fitSquares(problem, grid, 0)
  if (simple.error < (GOOD_ENOUGH_DB * shareOfError * Math.LN10) / 10 && isPositive(simple.c)) {
    return assemble(problem, simple.c, 0, inverse)
  }
  const full = fitSquares(problem, grid, 2)
  const sound = polynomialRoots(bernsteinToPower(full.c)).every((r) => !liesOnCircle(r))
  return sound ? assemble(problem, full.c, 2, inverse) : simplest(analogue, rateHz)
}

/** The closed form, for what cannot be fitted. */
function simplest({ n, d }: AnalogueSection, rateHz: number): [Biquad, Biquad] {
  const out = new Float64Array(QUICK_STRIDE)
  quickSection(out, 0, n[0], n[1], n[2], d[0], d[1], d[2], 1, rateHz)
  const [b0, b1, b2, a1, a2] = out
  return [{ b0, b1, b2, a1, a2 }, UNCHANGED]
}

interface Problem {
  readonly pole: { readonly section: Section; power(x: number): number }
  /** Number of poles of the analogue section. */
  readonly order: number
  /** Zeros at 0 Hz, and a notch with its place as sin²(w/2): kept exactly. */
  readonly dcZeros: number
  readonly notchX: number | null
  readonly centreHz: number
  readonly rateHz: number
  readonly topHz: number
  wantedPower(hz: number): number
}

function makeProblem(poles: Section, zeros: Section, rateHz: number): Problem {
  const isNotch = zeros[1] === 0 && zeros[0] !== 0 && zeros[2] !== 0
  const notchHz = isNotch ? Math.sqrt(zeros[0] / zeros[2]) : 0
  return {
    pole: digitalPoles(poles, rateHz),
    order: poles[2] !== 0 ? 2 : 1,
    dcZeros: zeros[0] !== 0 ? 0 : zeros[1] !== 0 ? 1 : 2,
    notchX: isNotch ? toX(Math.min(notchHz, 0.499 * rateHz), rateHz) : null,
    centreHz: poles[2] !== 0 ? Math.sqrt(Math.abs(poles[0] / poles[2])) : poles[0] / poles[1],
    rateHz,
    topHz: Math.min(TOP_HZ, TOP_SHARE * rateHz),
    wantedPower: (hz) => polyPower(zeros, hz) / polyPower(poles, hz),
  }
}

function toX(hz: number, rateHz: number): number {
  return Math.sin((Math.PI * hz) / rateHz) ** 2
}

/** The part of the numerator's power that is kept exactly. */
function fixedPower({ dcZeros, notchX }: Problem, x: number): number {
  return x ** dcZeros * (notchX === null ? 1 : (x - notchX) ** 2)
}

/** What the free polynomial should be at a frequency. */
function target(problem: Problem, hz: number, x: number, extra: 0 | 2): number {
  const power = problem.wantedPower(hz) * problem.pole.power(x) * extraPower(x, extra)
  return power / fixedPower(problem, x)
}

function freeDegree({ order, dcZeros, notchX }: Problem, extra: 0 | 2): number {
  return order + extra - dcZeros - (notchX === null ? 0 : 2)
}

/** True when a polynomial in Bernstein form has no root where it would lie on the unit circle. */
function isPositive(c: Float64Array): boolean {
  if (c.length < 3) return c.every((v) => v > 0)
  return c[0] > 0 && c[2] > 0 && c[1] > -0.999 * Math.sqrt(c[0] * c[2])
}

/** A root in sin²(w/2) that is a frequency: the filter would be silent there, and its inverse unstable. */
function liesOnCircle({ re, im }: Root): boolean {
  return im === 0 && re >= 0 && re <= 1
}

/** Turns the fitted polynomial into sections. */
function assemble(
  problem: Problem,
  c: Float64Array,
  extra: 0 | 2,
  inverse: boolean,
): [Biquad, Biquad] {
  const { dcZeros, notchX, pole } = problem
  const roots: Root[] = polynomialRoots(bernsteinToPower(c))
  for (let i = 0; i < dcZeros; i++) roots.push({ re: 0, im: 0 })
  const above = makeSections(roots, notchX)
  const free = c.length - 1
  // Level: at the end of the band where the fit is larger.
  const low = c[0] * fixedPower(problem, 0)
  const high = c[free] * fixedPower(problem, 1)
  const sign = low > high ? 1 : -1
  const have = above.reduce((p, s) => p * (s[0] + sign * s[1] + s[2]) ** 2, 1)
  const level = Math.sqrt(Math.max(low, high) / have)
  const main = (above[0] ?? UNIT).map((v) => v * level) as unknown as Section
  const second = above[1] ?? UNIT
  const turn = (n: Section, d: Section) => (inverse ? divide(d, n) : divide(n, d))
  return [turn(main, pole.section), extra ? turn(second, EXTRA_SECTION) : UNCHANGED]
}

const UNIT: Section = [1, 0, 0]

type Section = readonly [number, number, number]
interface Root {
  readonly re: number
  readonly im: number
}
const EXTRA_SECTION: Section = [1, 2 * EXTRA_POLE, EXTRA_POLE ** 2]

/** A section that changes nothing, with the extra poles, so that it can glide to one that does. */
export const UNCHANGED: Biquad = divide(EXTRA_SECTION, EXTRA_SECTION)

function divide(n: Section, d: Section): Biquad {
  return { b0: n[0] / d[0], b1: n[1] / d[0], b2: n[2] / d[0], a1: d[1] / d[0], a2: d[2] / d[0] }
}

function extraPower(x: number, extra: number): number {
  return ((1 + EXTRA_POLE) ** 2 * (1 - x) + (1 - EXTRA_POLE) ** 2 * x) ** extra
}

function digitalPoles(d: readonly [number, number, number], rateHz: number) {
  const t = (2 * Math.PI) / rateHz
  let a1 = 0
  let a2 = 0
  if (d[2] === 0) {
    if (d[1] !== 0) a1 = -Math.exp((-d[0] / d[1]) * t)
  } else {
    const re = -d[1] / (2 * d[2])
    const disc = re * re - d[0] / d[2]
    if (disc < 0) {
      const angle = Math.min(Math.sqrt(-disc) * t, 0.985 * Math.PI)
      const radius = Math.exp(re * t)
      a1 = -2 * radius * Math.cos(angle)
      a2 = radius * radius
    } else {
      const root = Math.sqrt(disc)
      const one = Math.exp((re - root) * t)
      // The slower pole by the product of the roots, which keeps its digits.
      const two = Math.exp((d[0] / d[2] / (re - root)) * t)
      a1 = -(one + two)
      a2 = one * two
    }
  }
  const low = (1 + a1 + a2) ** 2
  const high = (1 - a1 + a2) ** 2
  return {
    section: [1, a1, a2] as Section,
    power: (x: number) => low * (1 - x) + high * x - 16 * a2 * x * (1 - x),
  }
}

interface GridPoint {
  readonly hz: number
  readonly x: number
  readonly weight: number
}

const GRID_POINTS = 36
const NEAR_TOP = [0.3, 0.45, 0.6, 0.7, 0.8, 0.86, 0.92, 0.96]
const NEAR_CENTRE = [0.7, 0.85, 0.95, 1, 1.05, 1.17, 1.4]

function makeGrid({ centreHz, topHz, rateHz, notchX }: Problem): GridPoint[] {
  const points: GridPoint[] = []
  const add = (hz: number, weight: number) => {
    // In a notch itself there is nothing to fit.
    if (notchX !== null && Math.abs(hz / centreHz - 1) < 1e-3) return
    points.push({ hz, weight, x: toX(hz, rateHz) })
  }
  const low = Math.min(15, centreHz / 2)
  for (let i = 0; i < GRID_POINTS; i++) add(low * (topHz / low) ** (i / (GRID_POINTS - 1)), 1)
  for (const share of NEAR_TOP) add(topHz * share, 1)
  for (const ratio of NEAR_CENTRE) if (centreHz * ratio < topHz) add(centreHz * ratio, 1)
  for (const share of [0.25, 0.5, 0.75, 1]) {
    add(topHz + (rateHz / 2 - topHz) * share, BEYOND_WEIGHT)
  }
  return points
}

/**
 * Bernstein coefficients of the polynomial with the least relative error, and the largest error within
 * the band.
 */
function fitSquares(
  problem: Problem,
  grid: readonly GridPoint[],
  extra: 0 | 2,
): { c: Float64Array; error: number } {
  const degree = freeDegree(problem, extra)
  const targets = grid.map(({ hz, x }) => target(problem, hz, x, extra))
  const columns = Array.from({ length: degree + 1 }, (_, k) =>
    Float64Array.from(grid, ({ x }, i) => {
      return (binomial(degree, k) * (1 - x) ** (degree - k) * x ** k) / targets[i]
    }),
  )
  const scale = columns.map((c) => 1 / Math.sqrt(dot(c, c)))
  let weights = Float64Array.from(grid, (p) => p.weight)
  let best = { c: new Float64Array(degree + 1), error: Number.POSITIVE_INFINITY }
  for (let round = 0; round <= REWEIGHTS; round++) {
    const c = leastSquares(
      columns.map((column, k) => column.map((v, i) => v * scale[k] * weights[i])),
      weights,
    ).map((v, k) => v * scale[k])
    let error = 0
    const errors = grid.map(({ weight }, i) => {
      let sum = -1
      for (let k = 0; k <= degree; k++) sum += c[k] * columns[k][i]
      if (weight === 1) error = Math.max(error, Math.abs(sum))
      return Math.abs(sum)
    })
    if (error < best.error) best = { c, error }
    if (error < 2e-4) break
    weights = weights.map((w, i) => w * Math.sqrt(0.15 + errors[i] / error))
  }
  return best
}

/** Minimises |A c - b| by modified Gram-Schmidt; `columns` are those of A and are overwritten. */
function leastSquares(columns: Float64Array[], b: Float64Array): Float64Array {
  const n = columns.length
  const rest = b.slice()
  const r = columns.map(() => new Float64Array(n))
  const y = new Float64Array(n)
  for (let k = 0; k < n; k++) {
    const q = columns[k]
    const norm = Math.sqrt(dot(q, q)) || 1e-300
    r[k][k] = norm
    for (let i = 0; i < q.length; i++) q[i] /= norm
    for (let j = k + 1; j < n; j++) {
      const share = dot(q, columns[j])
      r[k][j] = share
      for (let i = 0; i < q.length; i++) columns[j][i] -= share * q[i]
    }
    y[k] = dot(q, rest)
    for (let i = 0; i < q.length; i++) rest[i] -= y[k] * q[i]
  }
  for (let k = n - 1; k >= 0; k--) {
    for (let j = k + 1; j < n; j++) y[k] -= r[k][j] * y[j]
    y[k] /= r[k][k]
  }
  return y
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i]
  return sum
}

function binomial(n: number, k: number): number {
  let value = 1
  for (let i = 0; i < k; i++) value = (value * (n - i)) / (i + 1)
  return value
}

function bernsteinToPower(c: Float64Array): Float64Array {
  const n = c.length - 1
  return c.map((_, j) => {
    let sum = 0
    for (let k = 0; k <= j; k++) {
      sum += ((j - k) % 2 === 0 ? 1 : -1) * binomial(n, j) * binomial(j, k) * c[k]
    }
    return sum
  })
}

/** Sections from roots in sin²(w/2): those of the lowest frequency first, real ones paired by size. */
function makeSections(roots: readonly Root[], notchX: number | null): Section[] {
  const zeros = roots.map(zeroOf)
  const placed: { section: Section; at: number }[] = []
  if (notchX !== null) placed.push({ section: [1, -2 * (1 - 2 * notchX), 1], at: 2 })
  for (const z of zeros) {
    if (z.im > 0) placed.push({ section: [1, -2 * z.re, z.re ** 2 + z.im ** 2], at: z.re })
  }
  const real = zeros.filter((z) => z.im === 0).sort((a, b) => b.re - a.re)
  for (let i = 0; i < real.length; i += 2) {
    const one = real[i].re
    const two = real[i + 1]?.re ?? 0
    placed.push({ section: [1, -(one + two), one * two], at: (one + two) / 2 })
  }
  return placed.sort((a, b) => b.at - a.at).map((p) => p.section)
}

/** z with z + 1/z = 2 - 4x and |z| ≤ 1. */
function zeroOf({ re, im }: Root): Root {
  // z = 1 - 2x ± 2 sqrt(x (x - 1)).
  const pr = re * (re - 1) - im * im
  const pi = im * (2 * re - 1)
  const size = Math.hypot(pr, pi)
  let sr = Math.sqrt(Math.max(0, (size + pr) / 2))
  let si = Math.sqrt(Math.max(0, (size - pr) / 2))
  if (pi < 0) si = -si
  const one = { re: 1 - 2 * re + 2 * sr, im: -2 * im + 2 * si }
  const two = { re: 1 - 2 * re - 2 * sr, im: -2 * im - 2 * si }
  sr = Math.hypot(one.re, one.im)
  si = Math.hypot(two.re, two.im)
  return sr <= si ? one : two
}
