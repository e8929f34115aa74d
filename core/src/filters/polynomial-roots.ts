/** A complex number. */
interface Root {
  readonly re: number
  readonly im: number
}

const ROUNDS = 200

/**
 * All roots of c0 + c1 x + … + cn xⁿ by Aberth's method (1973), polished together; conjugate pairs come
 * out exactly conjugate. Leading coefficients that are zero lower the degree.
 */
export function polynomialRoots(coefficients: ArrayLike<number>): Root[] {
  const c = Array.from(coefficients)
  while (c.length > 1 && c[c.length - 1] === 0) c.pop()
  const n = c.length - 1
  if (n < 1) return []
  if (n === 1) return [{ re: -c[0] / c[1], im: 0 }]
  if (n === 2) return quadratic(c[0], c[1], c[2])
  return pairUp(aberth(c))
}

/** Both roots of a quadratic without cancellation. */
function quadratic(c0: number, c1: number, c2: number): Root[] {
  const disc = c1 * c1 - 4 * c2 * c0
  if (disc < 0) {
    const re = -c1 / (2 * c2)
    const im = Math.sqrt(-disc) / (2 * Math.abs(c2))
    return [
      { re, im },
      { re, im: -im },
    ]
  }
  const q = -0.5 * (c1 + (c1 < 0 ? -1 : 1) * Math.sqrt(disc))
  return q === 0
    ? [
        { re: 0, im: 0 },
        { re: 0, im: 0 },
      ]
    : [
        { re: q / c2, im: 0 },
        { re: c0 / q, im: 0 },
      ]
}

function aberth(c: readonly number[]): Root[] {
  const n = c.length - 1
  const re = new Float64Array(n)
  const im = new Float64Array(n)
  // Starting moduli from the slopes of the coefficients (Bini 1996), angles spread unevenly.
  for (let k = 0; k < n; k++) {
    const radius = Math.abs(c[k] / c[k + 1]) || 1e-6
    const angle = (2 * Math.PI * k) / n + 0.7 + k * 0.3
    re[k] = radius * Math.cos(angle)
    im[k] = radius * Math.sin(angle)
  }
  for (let round = 0; round < ROUNDS; round++) {
    let moved = 0
    for (let k = 0; k < n; k++) {
      const [nr, ni] = newton(c, re[k], im[k])
      let sr = 0
      let si = 0
      for (let j = 0; j < n; j++) {
        if (j === k) continue
        const dr = re[k] - re[j]
        const di = im[k] - im[j]
        const d = dr * dr + di * di || 1e-300
        sr += dr / d
        si -= di / d
      }
      const fr = 1 - (nr * sr - ni * si)
      const fi = -(nr * si + ni * sr)
      const f = fr * fr + fi * fi || 1e-300
      const stepRe = (nr * fr + ni * fi) / f
      const stepIm = (ni * fr - nr * fi) / f
      re[k] -= stepRe
      im[k] -= stepIm
      moved = Math.max(moved, Math.hypot(stepRe, stepIm) / (Math.hypot(re[k], im[k]) + 1e-300))
    }
    if (moved < 1e-14) break
  }
  return Array.from(re, (r, k) => ({ re: r, im: im[k] }))
}

/** p(x)/p'(x) at a complex point. */
function newton(c: readonly number[], xr: number, xi: number): [number, number] {
  let pr = 0
  let pi = 0
  let dr = 0
  let di = 0
  for (let k = c.length - 1; k >= 0; k--) {
    const nextDr = dr * xr - di * xi + pr
    di = dr * xi + di * xr + pi
    dr = nextDr
    const nextPr = pr * xr - pi * xi + c[k]
    pi = pr * xi + pi * xr
    pr = nextPr
  }
  const d = dr * dr + di * di || 1e-300
  return [(pr * dr + pi * di) / d, (pi * dr - pr * di) / d]
}

/** Real roots to the real line, the others to exact conjugates. */
function pairUp(roots: readonly Root[]): Root[] {
  const rest = [...roots]
  const out: Root[] = []
  while (rest.length > 0) {
    const root = rest.shift() as Root
    if (Math.abs(root.im) < 1e-9 * (Math.abs(root.re) + Math.abs(root.im))) {
      out.push({ re: root.re, im: 0 })
      continue
    }
    let partner = -1
    let least = Number.POSITIVE_INFINITY
    for (const [i, other] of rest.entries()) {
      const away = Math.hypot(other.re - root.re, other.im + root.im)
      if (away < least) {
        least = away
        partner = i
      }
    }
    if (partner < 0) {
      out.push({ re: root.re, im: 0 })
      continue
    }
    const [other] = rest.splice(partner, 1)
    const re = (root.re + other.re) / 2
    const im = Math.abs(root.im - other.im) / 2
    out.push({ re, im }, { re, im: -im })
  }
  return out
}
