import type { SourceReading } from '@sober-prism/core/findings'
import type { HeardMoments, TrackPatterns } from '@sober-prism/core/hearing'

/** Long arrays move to shared memory, because several workers read them next. */
export function shareReading<R extends Omit<SourceReading, 'rings'>>(reading: R): R {
  const { bands, outline, heard } = reading
  return {
    ...reading,
    heard: shareHeard(heard),
    bands: { ...bands, mid: toShared(bands.mid), side: toShared(bands.side) },
    outline: { ...outline, spectra: toShared(outline.spectra) },
  }
}

export function sharePatterns(made: TrackPatterns): TrackPatterns {
  return {
    ...made,
    ears: made.ears.map(({ intensity, masker, excitation, spread }) => ({
      intensity: toShared(intensity),
      masker: toShared(masker),
      excitation: toShared(excitation),
      spread: toShared(spread),
    })),
    sides: made.sides && toShared(made.sides),
    alone: toShared(made.alone),
  }
}

function toShared<T extends Float32Array | Float64Array>(values: T): T {
  const Kind = values.constructor as new (buffer: SharedArrayBuffer) => T
  const shared = new Kind(new SharedArrayBuffer(values.byteLength))
  shared.set(values)
  return shared
}

function shareHeard({ moments, mid, side, cross, past, fade, tonal }: HeardMoments): HeardMoments {
  return {
    moments,
    mid: toShared(mid),
    side: side && toShared(side),
    cross: cross && toShared(cross),
    past: toShared(past),
    fade: toShared(fade),
    tonal: toShared(tonal),
  }
}
