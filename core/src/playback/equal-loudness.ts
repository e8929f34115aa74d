/**
 * ISO 226:2003, table 1 (quoted from memory; SCIENCE.md has the checks): frequency, exponent of loudness, level of the
 * transfer to 1 kHz in dB, threshold of hearing in dB SPL.
 */
const TABLE: readonly (readonly [number, number, number, number])[] = [
  [20, 0.532, -31.6, 78.5],
  [25, 0.506, -27.2, 68.7],
  [31.5, 0.48, -23, 59.5],
  [40, 0.455, -19.1, 51.1],
  [50, 0.432, -15.9, 44],
  [63, 0.409, -13, 37.5],
  [80, 0.387, -10.3, 31.5],
  [100, 0.367, -8.1, 26.5],
  [125, 0.349, -6.2, 22.1],
  [160, 0.33, -4.5, 17.9],
  [200, 0.315, -3.1, 14.4],
  [250, 0.301, -2, 11.4],
  [315, 0.288, -1.1, 8.6],
  [400, 0.276, -0.4, 6.2],
  [500, 0.267, 0, 4.4],
  [630, 0.259, 0.3, 3],
  [800, 0.253, 0.5, 2.2],
  [1000, 0.25, 0, 2.4],
  [1250, 0.246, -2.7, 3.5],
  [1600, 0.244, -4.1, 1.7],
  [2000, 0.243, -1, -1.3],
  [2500, 0.243, 1.7, -4.2],
  [3150, 0.243, 2.5, -6],
  [4000, 0.242, 1.2, -5.4],
  [5000, 0.242, -2.1, -1.5],
  [6300, 0.245, -7.1, 6],
  [8000, 0.254, -11.2, 12.6],
  [10000, 0.271, -10.7, 13.9],
  [12500, 0.301, -3.1, 12.3],
]

/**
 * Level of a tone in dB SPL that is as loud as 1 kHz at `phon` dB SPL (ISO 226:2003, equation 1; 20 to 90 phon). Between
 * the table's frequencies straight over their logarithm; beyond them as at its ends.
 */
export function equalLoudnessDb(phon: number, hz: number): number {
  const last = TABLE.length - 1
  if (hz <= TABLE[0][0]) return levelAt(0, phon)
  if (hz >= TABLE[last][0]) return levelAt(last, phon)
  let at = 0
  while (TABLE[at + 1][0] < hz) at++
  const share = Math.log(hz / TABLE[at][0]) / Math.log(TABLE[at + 1][0] / TABLE[at][0])
  return (1 - share) * levelAt(at, phon) + share * levelAt(at + 1, phon)
}

function levelAt(row: number, phon: number): number {
  const [, exponent, transferDb, thresholdDb] = TABLE[row]
  const factor =
    4.47e-3 * (10 ** (0.025 * phon) - 1.15) +
    (0.4 * 10 ** ((thresholdDb + transferDb) / 10 - 9)) ** exponent
  return (10 / exponent) * Math.log10(factor) - transferDb + 94
}

/**
 * What makes a sound at one level seem as it is at another: the difference of two contours, 0 at 1 kHz, in dB. At a lower
 * level less is heard of the lows.
 */
export function heardAtDb(phon: number, herePhon: number, hz: number): number {
  return equalLoudnessDb(herePhon, hz) - herePhon - (equalLoudnessDb(phon, hz) - phon)
}
