/**
 * Transfer of the outer and middle ear, as `[hz, dB]`. Outer ear: free field, frontal incidence, to the
 * eardrum; middle ear: eardrum to cochlea. Values after ANSI S3.4-2007, tables 1 and 3 (memory).
 */
const OUTER_EAR_DB: readonly (readonly [number, number])[] = [
  [20, 0],
  [100, 0],
  [125, 0.1],
  [160, 0.3],
  [200, 0.5],
  [250, 0.9],
  [315, 1.4],
  [400, 1.6],
  [500, 1.7],
  [630, 2.5],
  [750, 2.7],
  [800, 2.6],
  [1000, 2.6],
  [1250, 3.2],
  [1500, 5.2],
  [1600, 6.6],
  [2000, 12],
  [2500, 16.8],
  [3000, 15.3],
  [3150, 15.2],
  [4000, 14.2],
  [5000, 10.7],
  [6000, 7.1],
  [6300, 6.4],
  [8000, 1.8],
  [9000, -0.9],
  [10000, -1.6],
  [11200, 1.9],
  [12500, 4.9],
  [14000, 2],
  [15000, -2],
  [16000, 2.5],
  [20000, 2.5],
]
const MIDDLE_EAR_DB: readonly (readonly [number, number])[] = [
  [20, -39.6],
  [25, -32],
  [31.5, -25.85],
  [40, -21.4],
  [50, -18.5],
  [63, -15.9],
  [80, -14.1],
  [100, -12.4],
  [125, -11],
  [160, -9.6],
  [200, -8.3],
  [250, -7.4],
  [315, -6.2],
  [400, -4.8],
  [500, -3.8],
  [630, -3.3],
  [750, -2.9],
  [800, -2.6],
  [1000, -2.6],
  [1250, -4.5],
  [1500, -5.4],
  [1600, -6.1],
  [2000, -8.5],
  [2500, -10.4],
  [3000, -7.3],
  [3150, -7],
  [4000, -6.6],
  [5000, -7],
  [6000, -9.2],
  [6300, -10.2],
  [8000, -12.2],
  [9000, -10.8],
  [10000, -10.1],
  [11200, -12.7],
  [12500, -15],
  [14000, -18.2],
  [15000, -23.8],
  [16000, -32.3],
  [18000, -45.5],
  [20000, -50],
]

/** Gain from a frontal free field to the cochlea at `hz`, in dB. */
export function earTransferDb(hz: number): number {
  return interpolateLog(OUTER_EAR_DB, hz) + interpolateLog(MIDDLE_EAR_DB, hz)
}

/** Reads a table of `[hz, value]` in a straight line over log frequency; ends hold. */
export function interpolateLog(table: readonly (readonly [number, number])[], hz: number): number {
  if (hz <= table[0][0]) return table[0][1]
  for (let i = 1; i < table.length; i++) {
    const [high, b] = table[i]
    if (hz <= high) {
      const [low, a] = table[i - 1]
      return a + ((b - a) * Math.log(hz / low)) / Math.log(high / low)
    }
  }
  return table[table.length - 1][1]
}
