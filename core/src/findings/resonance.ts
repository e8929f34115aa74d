import { LevelProfile } from './level-profile'
import { PeakProfile } from './peak-profile'
import { prominence, type StandOut, strength } from './ring-cells'

/** A place that stands out whatever is played. */
export interface Ring {
  readonly hz: number
  readonly q: number
  /** Height over the places beside it, in dB. */
  readonly db: number
  /** How far that is out of their scatter, in standard deviations. */
  readonly score: number
  /** Separate occasions on which it was seen. */
  readonly visits: number
}

/** What a place must have to count as a ring. */
interface Rule {
  readonly leastVisits: number
  readonly db: readonly [number, number]
  readonly leastScore: number
  /** Against what else stands out in the same sound; see {@link prominence}. */
  readonly leastProminence: number
  readonly mostUnrest: number
}

/** Peaks over their neighbours; what stands higher than rings do is a line of the music. */
const BY_PEAKS: readonly Rule[] = [
  { leastVisits: 4, db: [5.5, 15.5], leastScore: 3.8, leastProminence: 1.3, mostUnrest: 9 },
  { leastVisits: 4, db: [4, 15.5], leastScore: 4.2, leastProminence: 3.5, mostUnrest: 1.3 },
]
/** Mean levels; lines of notes come and go, so that their level scatters more than what lies beside. */
const BY_LEVELS: readonly Rule[] = [
  { leastVisits: 12, db: [5.5, 18], leastScore: 2.8, leastProminence: 1.5, mostUnrest: 1.3 },
  { leastVisits: 12, db: [5, 16], leastScore: 3.8, leastProminence: 0, mostUnrest: 1.3 },
]

/** Range in which mean levels are judged from low spectra, and from high ones. */
const LOW_LEVELS_HZ = [80, 1050] as const
const HIGH_LEVELS_HZ = [450, 12000] as const
const LEVELS_SPLIT_HZ = 700
/** Of places that stand out less than this many times as much as is usual, only the first counts. */
const DOUBTFUL = 3
/** Rings closer than this are one. */
const SAME_OCTAVES = 0.25

/**
 * Finds fixed resonances. Spectra come in frame by frame, low and high ones apart, so that each has the
 * resolution it needs.
 */
export class RingFinder {
  readonly #peaks = new PeakProfile()
  readonly #low = new LevelProfile()
  readonly #high = new LevelProfile()

  /** Takes a spectrum of the low range: bins a few Hz wide. */
  addLow(power: Float64Array, binHz: number, toHz: number): void {
    this.#peaks.add(power, binHz, 80, toHz)
    this.#low.add(power, binHz, ...LOW_LEVELS_HZ)
  }

  /** Takes a spectrum of the high range: frames short enough to follow notes. */
  addHigh(power: Float64Array, binHz: number, fromHz: number): void {
    this.#peaks.add(power, binHz, fromHz, 12000)
    this.#high.add(power, binHz, ...HIGH_LEVELS_HZ)
  }

  /** Everything that stands out by either measure, whether it counts or not. */
  places(): { readonly byPeaks: StandOut[]; readonly byLevels: StandOut[] } {
    return {
      byPeaks: this.#peaks.places(),
      byLevels: [
        ...this.#low.places().filter((r) => r.hz < LEVELS_SPLIT_HZ),
        ...this.#high.places().filter((r) => r.hz >= LEVELS_SPLIT_HZ),
      ],
    }
  }

  /** Rings, those that stand out most first. */
  rings(): Ring[] {
    const { byPeaks, byLevels } = this.places()
    const places: Prominent[] = []
    for (const place of [...accepted(byPeaks, BY_PEAKS), ...accepted(byLevels, BY_LEVELS)]) {
      const other = places.findIndex((p) => Math.abs(Math.log2(p.hz / place.hz)) <= SAME_OCTAVES)
      if (other < 0) places.push(place)
      else if (places[other].prominence < place.prominence) places[other] = place
    }
    places.sort((a, b) => b.prominence - a.prominence)
    const firstDoubtful = places.findIndex((p) => p.prominence < DOUBTFUL)
    return (firstDoubtful < 0 ? places : places.slice(0, firstDoubtful + 1)).sort(
      (a, b) => strength(b) - strength(a),
    )
  }
}

interface Prominent extends StandOut {
  /** See {@link prominence}. */
  readonly prominence: number
}

/** The places that one of the rules lets pass. */
function accepted(places: readonly StandOut[], rules: readonly Rule[]): Prominent[] {
  return places
    .map((place) => ({ ...place, prominence: prominence(place, places) }))
    .filter((place) => rules.some((rule) => passes(place, rule)))
}

function passes(place: Prominent, rule: Rule): boolean {
  return (
    place.visits >= rule.leastVisits &&
    place.db >= rule.db[0] &&
    place.db <= rule.db[1] &&
    place.score >= rule.leastScore &&
    place.unrest <= rule.mostUnrest &&
    place.prominence >= rule.leastProminence
  )
}
