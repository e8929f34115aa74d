/**
 * Logistic regression with a quadratic penalty, by Newton's method.
 * @param rows features, standardised; @param labels 0 or 1; @param counts how much each row counts.
 */
export function fitLogistic(
  rows: readonly Float64Array[],
  labels: readonly number[],
  counts: readonly number[],
  penalty: number,
): { intercept: number; weights: Float64Array } {
  const n = rows[0].length + 1
  const beta = new Float64Array(n)
  for (let round = 0; round < 12; round++) {
    const gradient = new Float64Array(n)
    const hessian = Array.from({ length: n }, () => new Float64Array(n))
    rows.forEach((row, r) => {
      let sum = beta[n - 1]
      for (let i = 0; i < n - 1; i++) sum += beta[i] * row[i]
      const p = 1 / (1 + Math.exp(-sum))
      const g = counts[r] * (labels[r] - p)
      const h = counts[r] * p * (1 - p)
      for (let i = 0; i < n; i++) {
        const x = i < n - 1 ? row[i] : 1
        gradient[i] += g * x
        const line = hessian[i]
        for (let j = 0; j <= i; j++) line[j] += h * x * (j < n - 1 ? row[j] : 1)
      }
    })
    for (let i = 0; i < n - 1; i++) {
      gradient[i] -= penalty * beta[i]
      hessian[i][i] += penalty
    }
    for (let i = 0; i < n; i++) for (let j = i + 1; j < n; j++) hessian[i][j] = hessian[j][i]
    const step = solve(hessian, gradient)
    for (let i = 0; i < n; i++) beta[i] += step[i]
  }
  return { intercept: beta[n - 1], weights: beta.slice(0, n - 1) }
}

/** Gauss elimination with pivots. */
export function solve(matrix: Float64Array[], right: Float64Array): Float64Array {
  const n = right.length
  const a = matrix.map((row, i) => Float64Array.from([...row, right[i]]))
  for (let i = 0; i < n; i++) {
    let pivot = i
    for (let r = i + 1; r < n; r++) if (Math.abs(a[r][i]) > Math.abs(a[pivot][i])) pivot = r
    ;[a[i], a[pivot]] = [a[pivot], a[i]]
    for (let r = i + 1; r < n; r++) {
      const factor = a[r][i] / a[i][i]
      for (let c = i; c <= n; c++) a[r][c] -= factor * a[i][c]
    }
  }
  const out = new Float64Array(n)
  for (let i = n - 1; i >= 0; i--) {
    let sum = a[i][n]
    for (let c = i + 1; c < n; c++) sum -= a[i][c] * out[c]
    out[i] = sum / a[i][i]
  }
  return out
}
