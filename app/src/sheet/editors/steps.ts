type Step = (value: number, direction: 1 | -1, fine: boolean) => number

/** How far an arrow key moves a value: by a ratio, or by an amount; with Shift a tenth of it. */
export const byRatio =
  (ratio: number): Step =>
  (value, direction, fine) =>
    Number((value * ratio ** (direction * (fine ? 0.1 : 1))).toPrecision(4))

export const byAmount =
  (amount: number): Step =>
  (value, direction, fine) =>
    Math.round(1000 * (value + direction * (fine ? amount / 10 : amount))) / 1000

export const bySemitone = byRatio(2 ** (1 / 12))
