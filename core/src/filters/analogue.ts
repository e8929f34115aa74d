import { BUTTERWORTH_Q } from './band-names'
import type { EqBand } from './eq-band'

/**
 * One analogue section: numerator `n0 + n1 s + n2 s²` over `d0 + d1 s + d2 s²`, with s in units of
 * 2π·1 Hz, so that s = j·hz. Definitions of types and Q: Audio EQ Cookbook (W3C Note, 2021).
 */
export interface AnalogueSection {
  readonly n: readonly [number, number, number]
  readonly d: readonly [number, number, number]
}

/** The analogue prototype of a band: what its digital filter is to follow. */
export function analogueSections(band: EqBand): AnalogueSection[] {
  const a = 10 ** (band.db / 40)
  const { hz, q } = band
  switch (band.type) {
    case 'bell':
      return [section(hz, [1, a / q, 1], [1, 1 / (a * q), 1])]
    case 'low-shelf': {
      const r = Math.sqrt(a) / q
      return [section(hz, [a * a, a * r, a], [1, r, a])]
    }
    case 'high-shelf': {
      const r = Math.sqrt(a) / q
      return [section(hz, [a, a * r, a * a], [a, r, 1])]
    }
    case 'low-cut':
      return butterworth(band, [0, 0, 1], [0, 1, 0])
    case 'high-cut':
      return butterworth(band, [1, 0, 0], [1, 0, 0])
    case 'notch':
      return [section(hz, [1, 0, 1], [1, 1 / q, 1])]
    case 'band-pass':
      return [section(hz, [0, 1 / q, 0], [1, 1 / q, 1])]
    case 'all-pass':
      return [section(hz, [1, -1 / q, 1], [1, 1 / q, 1])]
    case 'tilt': {
      const g = 10 ** (band.db / 20)
      return [section(hz, [1, g, 0], [g, 1, 0])]
    }
  }
}

type Triple = readonly [number, number, number]

/** Scales a prototype with its corner at 1 to `hz`. */
function section(hz: number, n: Triple, d: Triple): AnalogueSection {
  return {
    n: [n[0], n[1] / hz, n[2] / hz ** 2],
    d: [d[0], d[1] / hz, d[2] / hz ** 2],
  }
}

/**
 * Butterworth cascade: the Q of pair k is 1 / (2 cos θk), plus a first-order section at odd orders. A `q`
 * other than 0.7071 raises or lowers the corner by scaling the sharpest pair.
 */
function butterworth(band: EqBand, pair: Triple, single: Triple): AnalogueSection[] {
  const order = band.slopeDbPerOct / 6
  const pairs = Math.floor(order / 2)
  const sections = order % 2 === 1 ? [section(band.hz, single, [1, 1, 0])] : []
  for (let k = 0; k < pairs; k++) {
    const theta = (Math.PI * (2 * k + 1 + (order % 2))) / (2 * order)
    const sharpest = k === pairs - 1
    const q = (sharpest ? band.q / BUTTERWORTH_Q : 1) / (2 * Math.cos(theta))
    sections.push(section(band.hz, pair, [1, 1 / q, 1]))
  }
  return sections
}

/** |H|² of an analogue section at `hz`. */
function analoguePower({ n, d }: AnalogueSection, hz: number): number {
  return polyPower(n, hz) / polyPower(d, hz)
}

/** |c0 + c1 jf + c2 (jf)²|². */
export function polyPower(c: Triple, hz: number): number {
  const re = c[0] - c[2] * hz * hz
  const im = c[1] * hz
  return re * re + im * im
}

/** Magnitude of a band's analogue prototype at `hz`, in dB. */
export function analogueDb(band: EqBand, hz: number): number {
  let power = 1
  for (const s of analogueSections(band)) power *= analoguePower(s, hz)
  return 10 * Math.log10(Math.max(1e-60, power))
}
