/** One feature of the sum that tells rings: its usual value and spread, and what it counts. */
export interface RingWeight {
  readonly name: string
  readonly mean: number
  readonly sd: number
  readonly weight: number
}

/** What tells rings: a logistic sum over features says where they may be, trees how likely each place is. */
export interface RingModel {
  readonly intercept: number
  readonly weights: readonly RingWeight[]
  readonly treesIntercept: number
  readonly trees: readonly number[]
}

/** A straight line through readings that foretells one figure; each reading counts within its bounds. */
export interface BellReading {
  readonly intercept: number
  readonly coefficients: readonly number[]
  readonly bounds: readonly (readonly [lowest: number, highest: number])[]
}
