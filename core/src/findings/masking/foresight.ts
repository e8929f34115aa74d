import { FILTER_COUNT, FILTER_HZ, type MaskingTrack } from '../../hearing'
import { Trial, type TrialSettings } from './trial'

/** What changes of a track since it was measured, in dB. */
export interface TrackChange {
  readonly id: string
  /** Of its level over frequency, in the middle and at the sides. */
  readonly midDb: Float64Array
  readonly sideDb: Float64Array
}

/** Where changes are read: the middles of the auditory filters, in Hz. */
export const CHANGE_HZ: Float64Array = Float64Array.from(FILTER_HZ)

/** Moments that are enough to tell what changes: what they are short of is the same before and after. */
const MOMENTS = 72

/** How much of each track is heard, foreseen from what was measured of another state of the session. */
export class Foresight {
  readonly #trial: Trial
  readonly #ids: readonly string[]
  readonly #before: Trial['loudness']

  /** @param tracks as they were measured, at their gains. */
  constructor(
    tracks: readonly (MaskingTrack & { readonly id: string })[],
    settings: TrialSettings,
  ) {
    this.#ids = tracks.map((t) => t.id)
    this.#trial = new Trial(tracks, { frames: MOMENTS, ...settings })
    this.#before = this.#trial.loudness
  }

  /** By how much the share of each track that is heard changes, by its id. */
  change(changes: readonly TrackChange[]): ReadonlyMap<string, number> {
    const gains = new Map(
      changes.flatMap(({ id, midDb, sideDb }) => {
        const track = this.#ids.indexOf(id)
        const of = (db: Float64Array) =>
          Float64Array.from({ length: FILTER_COUNT }, (_, b) => 10 ** (db[b] / 10))
        return track < 0 ? [] : [[track, { mid: of(midDb), side: of(sideDb) }] as const]
      }),
    )
    const after = gains.size === 0 ? this.#before : this.#after(gains)
    return new Map(
      this.#ids.map((id, t) => [id, shareOf(after[t]) - shareOf(this.#before[t])] as const),
    )
  }

  #after(gains: Parameters<Trial['loudnessWith']>[0]): Trial['loudness'] {
    const [only, ...others] = gains
    // Several that meet each other are run as a whole; of one only what it touches is.
    if (others.length > 0) return this.#trial.loudnessWith(gains)
    const { inMixSone, aloneSone } = this.#trial.tryGains(...only)
    return this.#before.map((b, t) => ({
      aloneSone: b.aloneSone + (t === only[0] ? aloneSone : 0),
      inMixSone: b.inMixSone + inMixSone[t],
    }))
  }
}

function shareOf({ aloneSone, inMixSone }: Trial['loudness'][number]): number {
  return aloneSone > 0 ? Math.min(1, inMixSone / aloneSone) : 1
}
