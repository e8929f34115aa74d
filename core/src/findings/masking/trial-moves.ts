import type { EqBand } from '../../filters'
import type { Edit } from '../../session'
import { activeBands, type FollowBand, MIX } from '../../treatments'
import { roundedBell } from './masking-places'
import type { Trial } from './trial'

/** What edits do to one track, as far as a trial can run it. */
export interface TrackMoves {
  readonly node: string
  readonly bands: readonly EqBand[]
  /** Bands that follow another track, by its id. */
  readonly followed: readonly { readonly key: string; readonly band: FollowBand }[]
  readonly gainDb: number
}

const NO_FADERS: ReadonlyMap<string, number> = new Map()

/**
 * Edits by the track that they treat. What a trial cannot run is not among them: bands that hear their own track, shifts
 * and turns of phase, filters that are no bands. @param faders where they stand, by track: without them no fader is moved.
 */
export function trackMoves(
  edits: readonly Edit[],
  faders: ReadonlyMap<string, number> = NO_FADERS,
): TrackMoves[] {
  const byNode = new Map<string, TrackMoves>()
  const on = (node: string, change: (moves: TrackMoves) => Partial<TrackMoves>) => {
    const before = byNode.get(node) ?? { node, bands: [], followed: [], gainDb: 0 }
    byNode.set(node, { ...before, ...change(before) })
  }
  for (const edit of edits) {
    if (edit.kind === 'add-band') {
      on(edit.node, ({ bands }) => ({ bands: [...bands, edit.chainBand.band] }))
    } else if (edit.kind === 'set-node' && edit.change.faderDb !== undefined) {
      const raised = edit.change.faderDb - (faders.get(edit.node) ?? edit.change.faderDb)
      on(edit.node, ({ gainDb }) => ({ gainDb: gainDb + raised }))
    } else if (edit.kind === 'change-output-gain') {
      on(edit.node, ({ gainDb }) => ({ gainDb: gainDb + edit.db }))
    } else if (edit.kind === 'add-treatment') {
      const { kind, params, key } = edit.treatment
      if (kind === 'equaliser') {
        const added = activeBands(params).map((b) => b.band)
        on(edit.node, ({ bands }) => ({ bands: [...bands, ...added] }))
      } else if (kind === 'follow' && key) {
        const added = params.bands
          .filter((b) => b.on && b.listens.to !== 'itself')
          .map((band) => ({ key: key.node, band }))
        on(edit.node, ({ followed }) => ({ followed: [...followed, ...added] }))
      }
    }
  }
  return [...byNode.values()]
}

/** Makes edits in a trial, as far as it can run them. @param ids of its tracks. @param faders see {@link trackMoves}. */
export function makeMoves(
  trial: Trial,
  ids: readonly string[],
  edits: readonly Edit[],
  faders = NO_FADERS,
): void {
  for (const { node, bands, followed, gainDb } of trackMoves(edits, faders)) {
    if (node === MIX) trial.applyToAll(bands, gainDb)
    const track = ids.indexOf(node)
    if (track < 0) continue
    if (bands.length > 0 || gainDb !== 0) trial.apply(track, bands, gainDb)
    for (const { key, band } of followed) {
      const heard = ids.indexOf(key)
      if (heard >= 0) trial.applyFollow(track, heard, bellOf(band))
    }
  }
}

/** A band that follows, as the bell that it is at its deepest. */
export function bellOf({ hz, q, rangeDb }: Pick<FollowBand, 'hz' | 'q' | 'rangeDb'>): EqBand {
  return roundedBell(hz, rangeDb, q)
}
