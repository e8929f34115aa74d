import { exactLoudness } from '../../hearing'
import { LEVEL_BANDS } from '../level-bands'

/**
 * Loudness in sone of a steady sound that has these long-term levels: a component in the middle of each band (Moore,
 * Glasberg and Baer 1997, as in ANSI S3.4-2007).
 * @param levels of {@link LEVEL_BANDS}, in dB relative to a mean square of 1.
 * @param listeningDbSpl level at which -23 LUFS is heard.
 */
export function steadyLoudness(levels: ArrayLike<number>, listeningDbSpl: number): number {
  return exactLoudness(
    LEVEL_BANDS.map(({ hz }, i) => ({ hz, dbSpl: levels[i] + 23 + listeningDbSpl })).filter(
      ({ dbSpl }) => dbSpl > LEAST_DB_SPL,
    ),
  )
}

/** Softer components are heard by nobody. */
const LEAST_DB_SPL = -20
