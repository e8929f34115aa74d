import type { OutputFigures } from './output-meter'

/** What a finished mix is brought to: a true peak, or a loudness without going over one. Levels in dBTP and LUFS. */
export type Normalise =
  | { readonly to: 'peak'; readonly dbtp: number }
  | { readonly to: 'loudness'; readonly lufs: number; readonly dbtp: number }

/**
 * The gain in dB that brings a measured sound there, nothing for silence.
 * @param measured null where it is silent.
 * @returns also whether the peak kept it from its loudness.
 */
export function normalisingGain(
  measured: OutputFigures,
  target: Normalise,
): { gainDb: number; heldByPeak: boolean } {
  const { lufs, truePeakDbtp } = measured
  if (truePeakDbtp === null) return { gainDb: 0, heldByPeak: false }
  const room = target.dbtp - truePeakDbtp
  if (target.to === 'peak' || lufs === null) return { gainDb: room, heldByPeak: false }
  const wanted = target.lufs - lufs
  return { gainDb: Math.min(wanted, room), heldByPeak: room < wanted }
}
