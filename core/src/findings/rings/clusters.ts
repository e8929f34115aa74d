const ROUNDS = 10

/**
 * k-means of rows, first centres spread evenly over time.
 * @param rows `count × size`. @returns the cluster of each row.
 */
export function clustersOf(rows: Float32Array, size: number, clusters: number): Uint8Array {
  const count = Math.floor(rows.length / size)
  const belongs = new Uint8Array(count)
  if (count === 0) return belongs
  const centres = Array.from({ length: clusters }, (_, k) => {
    const row = Math.min(count - 1, Math.floor(((k + 0.5) * count) / clusters))
    return Float64Array.from(rows.subarray(row * size, (row + 1) * size))
  })
  for (let round = 0; round < ROUNDS; round++) {
    for (let r = 0; r < count; r++) belongs[r] = nearest(rows, r * size, centres)
    const sums = centres.map(() => new Float64Array(size))
    const counts = new Float64Array(clusters)
    for (let r = 0; r < count; r++) {
      const sum = sums[belongs[r]]
      counts[belongs[r]]++
      for (let i = 0; i < size; i++) sum[i] += rows[r * size + i]
    }
    sums.forEach((sum, k) => {
      if (counts[k] > 0) centres[k] = sum.map((v) => v / counts[k])
    })
  }
  return belongs
}

function nearest(rows: Float32Array, from: number, centres: readonly Float64Array[]): number {
  let best = 0
  let least = Number.POSITIVE_INFINITY
  centres.forEach((centre, k) => {
    let distance = 0
    for (let i = 0; i < centre.length; i++) {
      const d = rows[from + i] - centre[i]
      distance += d * d
    }
    if (distance < least) {
      least = distance
      best = k
    }
  })
  return best
}
