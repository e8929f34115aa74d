import { type Profile, THIRDS } from '@sober-prism/core/match'
import { signed } from '../format'

const EDGES_HZ = [0, 200, 1000, 4000, Number.POSITIVE_INFINITY]
const RANGES = ['Below 200 Hz', '200 Hz to 1 kHz', '1 to 4 kHz', 'Above 4 kHz']

/** Power of a range against the whole, in dB. */
function rangeDb({ thirds }: Profile, fromHz: number, toHz: number): number {
  let [within, whole] = [0, 0]
  for (const [i, { hz }] of THIRDS.entries()) {
    const power = 10 ** (thirds.meanDb[i] / 10)
    whole += power
    if (hz >= fromHz && hz < toHz) within += power
  }
  return 10 * Math.log10(within / whole)
}

/** What is told of two chains of one sound, the loudness taken out of the ranges: figures with their units. */
export function chainFigures(
  mine: Profile,
  theirs: Profile,
): { readonly what: string; readonly mine: string; readonly theirs: string }[] {
  const row = (what: string, read: (profile: Profile) => string) => ({
    what,
    mine: read(mine),
    theirs: read(theirs),
  })
  return [
    row('Loudness, LUFS', (p) => signed(p.loudness.integratedLufs)),
    row('Loudness range, LU', ({ loudness: { rangeLu } }) =>
      rangeLu === null ? 'too short' : rangeLu.toFixed(1),
    ),
    row('Crest factor, dB', (p) => p.loudness.crestDb.toFixed(1)),
    ...EDGES_HZ.slice(1).map((toHz, i) =>
      row(`${RANGES[i]}, dB of total`, (p) => signed(rangeDb(p, EDGES_HZ[i], toHz))),
    ),
  ]
}
