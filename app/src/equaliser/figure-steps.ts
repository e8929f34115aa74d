type Step = (value: number, direction: 1 | -1, fine: boolean) => number

const stepRatio =
  (ratio: number): Step =>
  (value, direction, fine) =>
    Number((value * ratio ** (direction * (fine ? 0.1 : 1))).toPrecision(4))

/** How far an arrow key moves the values of a band: a semitone, half a dB, an eighth of Q; finer with Shift. */
export const stepHz = stepRatio(2 ** (1 / 12))
export const stepQ = stepRatio(1.125)
export const stepDb: Step = (value, direction, fine) =>
  Math.round((value + direction * (fine ? 0.05 : 0.5)) * 100) / 100

/** A band's values as they stand in fields. */
export const fieldHz = (hz: number) =>
  hz >= 1000 ? `${Number((hz / 1000).toPrecision(4))}k` : `${Number(hz.toPrecision(4))}`
export const fieldQ = (q: number) => `${Number(q.toPrecision(3))}`
