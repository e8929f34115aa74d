import { type Profile, THIRDS } from '@sober-prism/core/match'
import { formatHz, signed } from '../format'

const EDGES_HZ = [20, 200, 1000, 4000, 20_000]

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
    row('Loudness', (p) => `${signed(p.loudness.integratedLufs)} LUFS`),
    row('Loudness range', ({ loudness: { rangeLu } }) =>
      rangeLu === null ? 'too short' : `${rangeLu.toFixed(1)} LU`,
    ),
    row('Peak over mean', (p) => `${p.loudness.crestDb.toFixed(1)} dB`),
    ...EDGES_HZ.slice(1).map((toHz, i) =>
      row(
        `${formatHz(EDGES_HZ[i])} to ${formatHz(toHz)}, of the whole`,
        (p) => `${signed(rangeDb(p, EDGES_HZ[i], toHz))} dB`,
      ),
    ),
  ]
}
