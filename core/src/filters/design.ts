import { BUTTERWORTH_Q, type EqBand } from '../session'
import type { Biquad } from './biquad'

/**
 * The sections that realise a band at a sample rate, in series. Definitions of types and Q: Audio EQ
 * Cookbook (W3C Note, 2021), by the bilinear transform. Cuts are Butterworth at every slope; `q` other
 * than 0.707 raises or lowers the corner by scaling the sharpest pair.
 * Frequencies from 0.49 of the rate upwards are held there.
 */
export function designBand(band: EqBand, rateHz: number): Biquad[] {
  const hz = Math.min(band.hz, rateHz * 0.49)
  const w = (2 * Math.PI * hz) / rateHz
  const gain = 10 ** (band.db / 40)
  switch (band.type) {
    case 'bell':
      return [bell(w, band.q, gain)]
    case 'low-shelf':
      return [lowShelf(w, band.q, gain)]
    case 'high-shelf':
      return [highShelf(w, band.q, gain)]
    case 'low-cut':
      return butterworth(
        band,
        (q) => lowCut(w, q),
        () => firstOrderLowCut(w),
      )
    case 'high-cut':
      return butterworth(
        band,
        (q) => highCut(w, q),
        () => firstOrderHighCut(w),
      )
    case 'notch':
      return [normalise(1, -2 * Math.cos(w), 1, alpha(w, band.q), w)]
    case 'band-pass': {
      const a = alpha(w, band.q)
      return [normalise(a, 0, -a, a, w)]
    }
    case 'all-pass': {
      const a = alpha(w, band.q)
      return [normalise(1 - a, -2 * Math.cos(w), 1 + a, a, w)]
    }
    case 'tilt':
      return [tilt(w, band.db)]
  }
}

function alpha(w: number, q: number): number {
  return Math.sin(w) / (2 * q)
}

function normalise(b0: number, b1: number, b2: number, a: number, w: number): Biquad {
  return divide(b0, b1, b2, 1 + a, -2 * Math.cos(w), 1 - a)
}

function divide(b0: number, b1: number, b2: number, a0: number, a1: number, a2: number): Biquad {
  return { b0: b0 / a0, b1: b1 / a0, b2: b2 / a0, a1: a1 / a0, a2: a2 / a0 }
}

function bell(w: number, q: number, gain: number): Biquad {
  const a = alpha(w, q)
  const c = -2 * Math.cos(w)
  return divide(1 + a * gain, c, 1 - a * gain, 1 + a / gain, c, 1 - a / gain)
}

function lowShelf(w: number, q: number, gain: number): Biquad {
  const c = Math.cos(w)
  const s = 2 * Math.sqrt(gain) * alpha(w, q)
  return divide(
    gain * (gain + 1 - (gain - 1) * c + s),
    2 * gain * (gain - 1 - (gain + 1) * c),
    gain * (gain + 1 - (gain - 1) * c - s),
    gain + 1 + (gain - 1) * c + s,
    -2 * (gain - 1 + (gain + 1) * c),
    gain + 1 + (gain - 1) * c - s,
  )
}

function highShelf(w: number, q: number, gain: number): Biquad {
  const c = Math.cos(w)
  const s = 2 * Math.sqrt(gain) * alpha(w, q)
  return divide(
    gain * (gain + 1 + (gain - 1) * c + s),
    -2 * gain * (gain - 1 + (gain + 1) * c),
    gain * (gain + 1 + (gain - 1) * c - s),
    gain + 1 - (gain - 1) * c + s,
    2 * (gain - 1 - (gain + 1) * c),
    gain + 1 - (gain - 1) * c - s,
  )
}

function lowCut(w: number, q: number): Biquad {
  const c = Math.cos(w)
  return normalise((1 + c) / 2, -(1 + c), (1 + c) / 2, alpha(w, q), w)
}

function highCut(w: number, q: number): Biquad {
  const c = Math.cos(w)
  return normalise((1 - c) / 2, 1 - c, (1 - c) / 2, alpha(w, q), w)
}

function firstOrderLowCut(w: number): Biquad {
  const t = Math.tan(w / 2)
  return divide(1, -1, 0, 1 + t, t - 1, 0)
}

function firstOrderHighCut(w: number): Biquad {
  const t = Math.tan(w / 2)
  return divide(t, t, 0, 1 + t, t - 1, 0)
}

/** Turns the spectrum about `hz`: `db` is the gain far above it, `-db` far below. First order. */
function tilt(w: number, db: number): Biquad {
  const g = 10 ** (db / 20)
  const t = Math.tan(w / 2)
  // Analogue (g s + 1)/(s + g), unity at the turning point.
  return divide(g + t, t - g, 0, 1 + g * t, g * t - 1, 0)
}

/** Butterworth cascade: Q of pair k is 1 / (2 cos θk), plus a first-order section at odd orders. */
function butterworth(band: EqBand, pair: (q: number) => Biquad, single: () => Biquad): Biquad[] {
  const order = band.slopeDbPerOct / 6
  const sections = order % 2 === 1 ? [single()] : []
  const pairs = Math.floor(order / 2)
  for (let k = 0; k < pairs; k++) {
    const theta = (Math.PI * (2 * k + 1 + (order % 2))) / (2 * order)
    const sharpest = k === pairs - 1
    const q = 1 / (2 * Math.cos(theta))
    sections.push(pair(sharpest ? (q * band.q) / BUTTERWORTH_Q : q))
  }
  return sections
}
