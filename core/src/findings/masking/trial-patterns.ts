import {
  Company,
  type EarFactors,
  earFactors,
  emptyFactors,
  FILTER_COUNT,
  type HeardMoments,
  joinBy,
  type MaskingTrack,
  type PartGains,
  sampleMoments,
  specificPartialLoudness,
  type TrackPatterns,
} from '../../hearing'

/**
 * Some of the moments of a session, denser where a track sounds that seldom does, with what is heard of all tracks
 * then. @param most at most about this many.
 */
export function thinOut(tracks: readonly MaskingTrack[], most: number): MaskingTrack[] {
  const [first] = tracks
  if (!first || first.heard.moments.at.length <= most) return [...tracks]
  const { moments } = first.heard
  const squares = new Float64Array(moments.at.length)
  for (const { heard } of tracks) {
    const loudness = roughLoudness(heard)
    let sum = 0
    loudness.forEach((v, i) => {
      sum += v * moments.seconds[i]
    })
    if (sum > 0)
      loudness.forEach((v, i) => {
        squares[i] += (v / sum) ** 2
      })
  }
  const chosen = sampleMoments(
    squares.map((v, i) => Math.sqrt(v) * moments.seconds[i] + 1e-12),
    most,
  )
  const thinned = {
    at: Int32Array.from(chosen, ([i]) => moments.at[i]),
    seconds: Float64Array.from(chosen, ([i, factor]) => factor * moments.seconds[i]),
    isDense: false,
  }
  const rows = (values: Float32Array) => {
    const out = new Float32Array(chosen.length * FILTER_COUNT)
    chosen.forEach(([i], k) => {
      out.set(values.subarray(i * FILTER_COUNT, (i + 1) * FILTER_COUNT), k * FILTER_COUNT)
    })
    return out
  }
  return tracks.map(({ heard, gainDb }) => ({
    gainDb,
    heard: {
      moments: thinned,
      mid: rows(heard.mid),
      side: heard.side && rows(heard.side),
      cross: heard.cross && rows(heard.cross),
      past: rows(heard.past),
      fade: rows(heard.fade),
      tonal: rows(heard.tonal),
    },
  }))
}

/** Loudness over the moments, roughly: a power of the power. */
function roughLoudness({ moments, mid, side }: HeardMoments): Float64Array {
  return Float64Array.from(moments.at, (_, m) => {
    let power = 0
    for (let i = m * FILTER_COUNT; i < (m + 1) * FILTER_COUNT; i++) {
      power += mid[i] + (side ? side[i] : 0)
    }
    return power ** 0.3
  })
}

/** What a track meets of the others at one ear, `moments × FILTER_COUNT`. */
interface NoiseAtEar {
  /** Excitation by the others, made smaller by what the ears' difference wins. */
  readonly noise: Float32Array
  /** By how much it is made smaller. */
  readonly won: Float32Array | null
}

/** What is left of a track beside the others, moment by moment, and what that was computed from. */
export interface TrackBeside {
  readonly ears: readonly NoiseAtEar[]
  /** On K, by how tonal the others are, and what that is told by; see {@link Company.beside}. */
  readonly kFactors: Float32Array
  readonly covers: Float32Array
  readonly asNoise: Float32Array
  readonly partial: Float32Array
  /** How the ears are joined, per moment; null where both hear the same. */
  readonly factors: readonly EarFactors[] | null
}

const rooms = Array.from({ length: 4 }, () => new Float64Array(FILTER_COUNT))

/** What all tracks meet of each other. */
export function besideEachOther(patterns: readonly TrackPatterns[]): TrackBeside[] {
  const company = new Company(patterns)
  const count = patterns[0]?.moments.at.length ?? 0
  const cells = count * FILTER_COUNT
  const earCount = patterns.some((p) => p.ears.length > 1) ? 2 : 1
  const out = patterns.map(() => ({
    ears: Array.from({ length: earCount }, () => ({
      noise: new Float32Array(cells),
      won: earCount > 1 ? new Float32Array(cells) : null,
    })),
    kFactors: new Float32Array(cells),
    covers: new Float32Array(cells),
    asNoise: new Float32Array(cells),
    partial: new Float32Array(cells),
    factors: earCount > 1 ? Array.from({ length: count }, emptyFactors) : null,
  }))
  for (let m = 0; m < count; m++) {
    company.at(m)
    const at = m * FILTER_COUNT
    patterns.forEach((pattern, t) => {
      if (pattern.aloneSone[m] === 0) return
      const { noise, won, kFactors, covers, asNoise } = company.beside(t)
      const own = out[t]
      own.kFactors.set(kFactors, at)
      own.covers.set(covers, at)
      own.asNoise.set(asNoise, at)
      own.ears.forEach((ear, e) => {
        ear.noise.set(noise[e], at)
        ear.won?.set(won[e], at)
      })
      const [left, right] = rooms
      partialAtEars(pattern, noise, kFactors, at, [left, right])
      const factors = own.factors?.[m]
      if (factors) joinBy(earFactors(left, right, factors), left, right, left)
      own.partial.set(left, at)
    })
  }
  return out
}

/** What is left at each ear of a track beside a noise. */
function partialAtEars(
  { ears }: Pick<TrackPatterns, 'ears'>,
  noise: readonly ArrayLike<number>[],
  kFactors: ArrayLike<number>,
  at: number,
  out: readonly Float64Array[],
): void {
  noise.forEach((beside, e) => {
    const { excitation } = ears[e] ?? ears[0]
    specificPartialLoudness(excitation.subarray(at, at + FILTER_COUNT), beside, kFactors, out[e])
  })
}

/** What is heard of a track behind gains on the power of its middle and its sides, filter by filter. */
export function heardWith(heard: HeardMoments, { mid, side }: PartGains): HeardMoments {
  const scaled = (values: Float32Array, gain: (b: number) => number) =>
    values.map((v, i) => v * gain(i % FILTER_COUNT))
  return {
    ...heard,
    mid: scaled(heard.mid, (b) => mid[b]),
    side: heard.side && scaled(heard.side, (b) => side[b]),
    cross: heard.cross && scaled(heard.cross, (b) => Math.sqrt(mid[b] * side[b])),
    past: scaled(heard.past, (b) => mid[b]),
  }
}
