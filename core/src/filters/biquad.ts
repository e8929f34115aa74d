/** One second-order section in direct form, `a0` = 1. */
export interface Biquad {
  readonly b0: number
  readonly b1: number
  readonly b2: number
  readonly a1: number
  readonly a2: number
}

/** A complex response: real and imaginary part. */
interface Complex {
  readonly re: number
  readonly im: number
}

/** The response of sections in series at `hz`. */
export function sectionsResponse(sections: readonly Biquad[], hz: number, rateHz: number): Complex {
  const w = (2 * Math.PI * hz) / rateHz
  const c1 = Math.cos(w)
  const s1 = -Math.sin(w)
  const c2 = Math.cos(2 * w)
  const s2 = -Math.sin(2 * w)
  let re = 1
  let im = 0
  for (const s of sections) {
    const nr = s.b0 + s.b1 * c1 + s.b2 * c2
    const ni = s.b1 * s1 + s.b2 * s2
    const dr = 1 + s.a1 * c1 + s.a2 * c2
    const di = s.a1 * s1 + s.a2 * s2
    const d = dr * dr + di * di
    const hr = (nr * dr + ni * di) / d
    const hi = (ni * dr - nr * di) / d
    const next = re * hr - im * hi
    im = re * hi + im * hr
    re = next
  }
  return { re, im }
}

/** Magnitude of sections in series at `hz`, in dB. */
export function sectionsDb(sections: readonly Biquad[], hz: number, rateHz: number): number {
  const { re, im } = sectionsResponse(sections, hz, rateHz)
  return 10 * Math.log10(Math.max(1e-24, re * re + im * im))
}

/** True when both poles lie inside the unit circle (the stability triangle). */
export function isStable(section: Biquad): boolean {
  return Math.abs(section.a2) < 1 && Math.abs(section.a1) < 1 + section.a2
}
