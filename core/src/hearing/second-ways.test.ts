import { describe, expect, it } from 'vitest'
import { erbBandwidthHz, hzToErbNumber } from '../spectrum'
import { exactLoudness } from '.'

/**
 * Constants of the model that are quoted from memory, held against what other standards and papers say: docs/hearing.md has the
 * list. Each row: frequency, exponent, level of the transfer and threshold of ISO 226:2003, table 1.
 */
const ISO_226 = [
  [31.5, 0.48, -23, 59.5],
  [63, 0.409, -13, 37.5],
  [125, 0.349, -6.2, 22.1],
  [250, 0.301, -2, 11.4],
  [500, 0.267, 0, 4.4],
  [1000, 0.25, 0, 2.4],
  [2000, 0.243, -1, -1.3],
  [4000, 0.242, 1.2, -5.4],
  [8000, 0.254, -10.7, 12.6],
] as const

/** Level of a tone as loud as 1 kHz at `phon` dB, by the formula of ISO 226:2003. */
function isoLevel([, exponent, transferDb, thresholdDb]: (typeof ISO_226)[number], phon: number) {
  const a =
    4.47e-3 * (10 ** (0.025 * phon) - 1.15) +
    (0.4 * 10 ** ((thresholdDb + transferDb) / 10 - 9)) ** exponent
  return (10 / exponent) * Math.log10(a) - transferDb + 94
}

/** Level at which a tone has a loudness, by our model. */
function levelAt(hz: number, sone: number): number {
  let [low, high] = [-20, 130]
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2
    if (exactLoudness([{ hz, dbSpl: middle }]) < sone) low = middle
    else high = middle
  }
  return low
}

describe('constants of hearing, a second way', () => {
  it('the formula of ISO 226 gives 1 kHz its own level, so that the row is quoted right', () => {
    for (const phon of [20, 40, 60, 80]) {
      expect(isoLevel(ISO_226[5], phon)).toBeCloseTo(phon, 1)
    }
  })

  it.each(ISO_226.map((row) => [row[0], row[3]] as const))(
    'a tone of %d Hz is just heard, 0.003 sone, at the threshold of ISO 226, %d dB, within half a dB',
    (hz, thresholdDb) => {
      expect(Math.abs(levelAt(hz, 0.003) - thresholdDb)).toBeLessThan(0.5)
    },
  )

  it('contours of equal loudness lie within 6.5 dB of those of ISO 226 from 31.5 Hz to 8 kHz', () => {
    for (const phon of [20, 40, 60, 80]) {
      const sone = exactLoudness([{ hz: 1000, dbSpl: phon }])
      for (const row of ISO_226) {
        expect(Math.abs(levelAt(row[0], sone) - isoLevel(row, phon))).toBeLessThan(6.5)
      }
    }
  })

  it('loudness doubles with every 10 phon from 40 phon on, within 6 % (ISO 532, ISO 131)', () => {
    for (let phon = 40; phon < 90; phon += 10) {
      const [below, above] = [phon, phon + 10].map((dbSpl) => exactLoudness([{ hz: 1000, dbSpl }]))
      expect(Math.abs(above / below / 2 - 1)).toBeLessThan(0.06)
    }
  })

  it('numbers of filters are the sum of their widths: the slope of one is one over the other', () => {
    for (const hz of [50, 200, 1000, 4000, 12_000]) {
      const slope = (hzToErbNumber(hz * 1.001) - hzToErbNumber(hz * 0.999)) / (0.002 * hz)
      expect(slope * erbBandwidthHz(hz)).toBeCloseTo(1, 2)
    }
  })
})
