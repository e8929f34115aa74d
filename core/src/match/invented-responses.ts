import type { Response } from './response-pair'

const at = (points: readonly (readonly [number, number])[]): Response =>
  points.map(([hz, db]) => ({ hz, db }))

/** Responses of microphones that do not exist, to try a pair with. */
export const INVENTED_RESPONSES: readonly { readonly name: string; readonly points: Response }[] = [
  {
    name: 'Lamp microphone',
    points: at([
      [30, -9],
      [60, -4],
      [120, -1],
      [250, 0],
      [1000, 0],
      [2500, 2],
      [4500, 5],
      [7000, 3],
      [10_000, 1],
      [14_000, -3],
      [18_000, -8],
    ]),
  },
  {
    name: 'Deck microphone',
    points: at([
      [30, -2],
      [80, 1],
      [200, 1],
      [500, 0],
      [1500, -0.5],
      [4000, 0],
      [8000, 3.5],
      [12_000, 4],
      [16_000, 1],
      [20_000, -4],
    ]),
  },
  {
    name: 'Rope-locker microphone',
    points: at([
      [30, -14],
      [90, -6],
      [180, -2],
      [400, 1.5],
      [900, 0],
      [2000, -1],
      [3500, 4],
      [5500, 6.5],
      [8000, 0],
      [12_000, -7],
      [16_000, -14],
    ]),
  },
]
