import { ANSWERS } from '@sober-prism/core/findings/rings'

/** Trees of a dozen answers, fitted one after the other to what those before leave. */
export interface BoostingOptions {
  readonly trees: number
  /** How far each tree goes towards what would be best. */
  readonly rate: number
  /** Penalty on answers, as rows that say nothing. */
  readonly penalty: number
  readonly leastInAnswer: number
}

const BINS = 64
const QUESTIONS = ANSWERS - 1
/** A threshold that nothing is above. */
const NEVER = 1e9

/** What rows would change: the slope and bend of the likelihood's logarithm, by their log odds now. */
interface Gradients {
  readonly slopes: Float64Array
  readonly bends: Float64Array
}

/** Rows that come to one answer, and the question that would part them best. */
interface Leaf {
  readonly rows: Uint32Array
  readonly slope: number
  readonly bend: number
  readonly split: Split | null
  /** The question that leads here, and by which side; -1 for the first. */
  readonly from: number
  readonly isAbove: boolean
}

interface Split {
  readonly feature: number
  readonly bin: number
  readonly gain: number
}

/**
 * Gradient boosting of log odds with Newton steps (Friedman 2001; Chen and Guestrin 2016, eq. 5 to 7), values in bins;
 * trees grow where most is won, which reaches further into what is rare than a question more everywhere.
 * @returns the table that `sumOfTrees` reads.
 */
export function fitTrees(
  rows: readonly Float64Array[],
  labels: readonly number[],
  { trees, rate, ...growing }: BoostingOptions,
): { readonly intercept: number; readonly table: number[] } {
  const share = labels.reduce((a, b) => a + b, 0) / labels.length
  const intercept = Math.log(share / (1 - share))
  const cuts = Array.from(rows[0], (_, f) => cutsOf(rows.map((r) => r[f])))
  const binned = cuts.map((cut, f) => Uint8Array.from(rows, (row) => binOf(row[f], cut)))
  const sums = new Float64Array(rows.length).fill(intercept)
  const gradients = { slopes: new Float64Array(rows.length), bends: new Float64Array(rows.length) }
  const table: number[] = []
  for (let tree = 0; tree < trees; tree++) {
    sums.forEach((sum, r) => {
      const p = 1 / (1 + Math.exp(-sum))
      gradients.slopes[r] = labels[r] - p
      gradients.bends[r] = p * (1 - p)
    })
    const { questions, leaves } = growTree(binned, gradients, growing)
    const answers = leaves.map(({ slope, bend }) => (rate * slope) / (bend + growing.penalty))
    leaves.forEach((leaf, a) => {
      for (const r of leaf.rows) sums[r] += answers[a]
    })
    table.push(
      ...questions.map((q) => q.feature),
      ...questions.map((q) => (q.bin < 0 ? NEVER : cuts[q.feature][q.bin])),
      ...questions.map((q) => q.below),
      ...questions.map((q) => q.above),
      ...Array.from({ length: ANSWERS }, (_, a) => answers[a] ?? 0),
    )
  }
  return { intercept, table }
}

interface Question {
  readonly feature: number
  /** Values in later bins are above; -1 where nothing is asked. */
  readonly bin: number
  /** Where each side leads: `n` for question `n`, `-1 - n` for answer `n`. */
  below: number
  above: number
}

function growTree(
  binned: readonly Uint8Array[],
  gradients: Gradients,
  { penalty, leastInAnswer }: Pick<BoostingOptions, 'penalty' | 'leastInAnswer'>,
): { questions: Question[]; leaves: Leaf[] } {
  const { slopes, bends } = gradients
  const leafOf = (rows: Uint32Array, from: number, isAbove: boolean): Leaf => {
    let [slope, bend] = [0, 0]
    for (const r of rows) {
      slope += slopes[r]
      bend += bends[r]
    }
    const split = bestSplit(binned, rows, gradients, penalty, leastInAnswer)
    return { rows, slope, bend, split, from, isAbove }
  }
  const questions: Question[] = []
  const leaves = [
    leafOf(
      Uint32Array.from(slopes, (_, r) => r),
      -1,
      false,
    ),
  ]
  const lead = ({ from, isAbove }: Leaf, to: number) => {
    if (from >= 0) questions[from][isAbove ? 'above' : 'below'] = to
  }
  while (questions.length < QUESTIONS) {
    const leaf = leaves.reduce((a, b) => ((b.split?.gain ?? 0) > (a.split?.gain ?? 0) ? b : a))
    if (!leaf.split) break
    const { feature, bin } = leaf.split
    const question = questions.length
    lead(leaf, question)
    questions.push({ feature, bin, below: -1, above: -1 })
    const bins = binned[feature]
    leaves.splice(
      leaves.indexOf(leaf),
      1,
      leafOf(
        leaf.rows.filter((r) => bins[r] <= bin),
        question,
        false,
      ),
      leafOf(
        leaf.rows.filter((r) => bins[r] > bin),
        question,
        true,
      ),
    )
  }
  leaves.forEach((leaf, a) => {
    lead(leaf, -1 - a)
  })
  while (questions.length < QUESTIONS) questions.push({ feature: 0, bin: -1, below: -1, above: -1 })
  return { questions, leaves }
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

/** The question that parts rows best; null where none does. */
function bestSplit(
  binned: readonly Uint8Array[],
  rows: Uint32Array,
  { slopes, bends }: Gradients,
  penalty: number,
  least: number,
): Split | null {
  let best: Split | null = null
  const worth = (slope: number, bend: number) => slope ** 2 / (bend + penalty)
  const [up, down, count] = [new Float64Array(BINS), new Float64Array(BINS), new Float64Array(BINS)]
  binned.forEach((bins, feature) => {
    for (const sum of [up, down, count]) sum.fill(0)
    for (const r of rows) {
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
      if (n < least || rows.length - n < least) continue
      const gain = worth(s, b) + worth(slope - s, bend - b) - worth(slope, bend)
      if (gain <= (best?.gain ?? 1e-9)) continue
      best = { feature, bin, gain }
    }
  })
  return best
}
