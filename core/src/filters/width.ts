import type { EqBand } from './eq-band'

/** Frequencies between which a band mainly acts. */
export interface BandEdges {
  readonly fromHz: number
  readonly toHz: number
}

/**
 * Edges of a band with a width: the octave bandwidth that belongs to Q in the analogue prototype,
 * asinh(1/2Q)·2/ln 2 octaves around the centre (Audio EQ Cookbook). `null` for shelves, cuts and tilt.
 */
export function bandEdges(band: EqBand): BandEdges | null {
  switch (band.type) {
    case 'bell':
    case 'notch':
    case 'band-pass':
    case 'all-pass': {
      const half = Math.exp(Math.asinh(1 / (2 * band.q)))
      return { fromHz: band.hz / half, toHz: band.hz * half }
    }
    case 'low-shelf':
    case 'high-shelf':
    case 'low-cut':
    case 'high-cut':
    case 'tilt':
      return null
  }
}

/** The Q whose upper or lower edge lies at `edgeHz`: inverse of {@link bandEdges}. */
export function qFromEdge(hz: number, edgeHz: number): number {
  const half = Math.abs(Math.log(edgeHz / hz))
  return 1 / (2 * Math.sinh(Math.max(half, 1e-3)))
}
