const ROUNDS = 10
/** Distances are given up after so many values. */
const STRETCH = 24

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
    let moved = 0
    for (let r = 0; r < count; r++) {
      const to = nearest(rows, r * size, centres)
      if (to !== belongs[r]) moved++
      belongs[r] = to
    }
    if (round > 0 && moved === 0) break
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
  for (let k = 0; k < centres.length; k++) {
    const distance = distanceTo(rows, from, centres[k], least)
    if (distance < least) {
      least = distance
      best = k
    }
  }
  return best
}

/** Square of a distance; of one beyond `most`, at least that. */
function distanceTo(rows: Float32Array, from: number, centre: Float64Array, most: number): number {
  let distance = 0
  for (let i = 0; i < centre.length; ) {
    const end = Math.min(centre.length, i + STRETCH)
    for (; i < end; i++) {
      const d = rows[from + i] - centre[i]
      distance += d * d
    }
    if (distance >= most) break
  }
  return distance
}
