/** Equivalent rectangular bandwidth of the auditory filter at `hz`, in Hz (Glasberg and Moore 1990, eq. 3). */
export function erbBandwidthHz(hz: number): number {
  return 24.7 * (0.00437 * hz + 1)
}

/** ERB number (Cam) of a frequency (Glasberg and Moore 1990, eq. 4). */
export function hzToErbNumber(hz: number): number {
  return 21.4 * Math.log10(0.00437 * hz + 1)
}

/** Frequency of an ERB number, in Hz: inverse of {@link hzToErbNumber}. */
export function erbNumberToHz(number: number): number {
  return (10 ** (number / 21.4) - 1) / 0.00437
}
