/** Trees of three questions in a row, fitted one after the other to what those before leave. */
export interface BoostingOptions {
  readonly trees: number
  /** How far each tree goes towards what would be best. */
  readonly rate: number
  /** Penalty on answers, as rows that say nothing. */
  readonly penalty: number
  readonly leastInAnswer: number
}

const BINS = 64
const QUESTIONS = 7
const DEPTH = 3

/**
 * Gradient boosting of log odds with Newton steps (Friedman 2001; Chen and Guestrin 2016, eq. 5 to 7), values in bins.
 * @returns the table that `sumOfTrees` reads: per tree seven features, seven thresholds, eight answers.
 */
export function fitTrees(
  rows: readonly Float64Array[],
  labels: readonly number[],
  { trees, rate, penalty, leastInAnswer }: BoostingOptions,
): { readonly intercept: number; readonly table: number[] } {
  const share = labels.reduce((a, b) => a + b, 0) / labels.length
  const intercept = Math.log(share / (1 - share))
  const cuts = Array.from(rows[0], (_, f) => cutsOf(rows.map((r) => r[f])))
  const binned = cuts.map((cut, f) => Uint8Array.from(rows, (row) => binOf(row[f], cut)))
  const sums = new Float64Array(rows.length).fill(intercept)
  const [slopes, bends] = [new Float64Array(rows.length), new Float64Array(rows.length)]
  const table: number[] = []
  for (let tree = 0; tree < trees; tree++) {
    sums.forEach((sum, r) => {
      const p = 1 / (1 + Math.exp(-sum))
      slopes[r] = labels[r] - p
      bends[r] = p * (1 - p)
    })
    const at = new Uint8Array(rows.length)
    const [asked, above] = [new Array(QUESTIONS).fill(0), new Array(QUESTIONS).fill(Infinity)]
    for (let level = 0; level < DEPTH; level++) {
      for (let question = 2 ** level - 1; question < 2 ** (level + 1) - 1; question++) {
        const best = bestSplit(binned, at, question, slopes, bends, penalty, leastInAnswer)
        asked[question] = best?.feature ?? 0
        above[question] = best ? cuts[best.feature][best.bin] : Infinity
        at.forEach((place, r) => {
          if (place !== question) return
          const isAbove = best !== null && binned[best.feature][r] > best.bin
          at[r] = 2 * question + (isAbove ? 2 : 1)
        })
      }
    }
    const [up, down] = [new Float64Array(QUESTIONS + 1), new Float64Array(QUESTIONS + 1)]
    at.forEach((place, r) => {
      up[place - QUESTIONS] += slopes[r]
      down[place - QUESTIONS] += bends[r]
    })
    const answers = up.map((v, a) => (rate * v) / (down[a] + penalty))
    at.forEach((place, r) => {
      sums[r] += answers[place - QUESTIONS]
    })
    table.push(...asked, ...above.map((v) => (v === Infinity ? 1e9 : v)), ...answers)
  }
  return { intercept, table }
}

/** Values that part a feature into bins of about as many rows each. */
function cutsOf(values: number[]): number[] {
  const sorted = Float64Array.from(values).sort()
  const cuts = Array.from(
    { length: BINS - 1 },
    (_, i) => sorted[Math.floor(((i + 1) * sorted.length) / BINS)],
  )
  return [...new Set(cuts)]
}

/** How many cuts a value is above. */
function binOf(value: number, cuts: readonly number[]): number {
  let [low, high] = [0, cuts.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (value > cuts[middle]) low = middle + 1
    else high = middle
  }
  return low
}

/** The question that parts the rows at one place best; null where none does. */
function bestSplit(
  binned: readonly Uint8Array[],
  at: Uint8Array,
  place: number,
  slopes: Float64Array,
  bends: Float64Array,
  penalty: number,
  least: number,
): { feature: number; bin: number } | null {
  const here: number[] = []
  at.forEach((p, r) => {
    if (p === place) here.push(r)
  })
  let best: { feature: number; bin: number } | null = null
  let most = 1e-9
  const worth = (slope: number, bend: number) => slope ** 2 / (bend + penalty)
  const [up, down, count] = [new Float64Array(BINS), new Float64Array(BINS), new Float64Array(BINS)]
  binned.forEach((bins, feature) => {
    for (const sum of [up, down, count]) sum.fill(0)
    for (const r of here) {
      up[bins[r]] += slopes[r]
      down[bins[r]] += bends[r]
      count[bins[r]]++
    }
    const [slope, bend] = [up, down].map((sum) => sum.reduce((a, b) => a + b, 0))
    let [s, b, n] = [0, 0, 0]
    for (let bin = 0; bin < BINS - 1; bin++) {
      s += up[bin]
      b += down[bin]
      n += count[bin]
      if (n < least || here.length - n < least) continue
      const gain = worth(s, b) + worth(slope - s, bend - b) - worth(slope, bend)
      if (gain <= most) continue
      most = gain
      best = { feature, bin }
    }
  })
  return best
}
