import type { Clip } from '@sober-prism/core/audio'
import {
  CELLS,
  type Features,
  hzOfCell,
  leaveOutEdge,
  levelGrids,
  meanProfile,
  ringFeatures,
} from '@sober-prism/core/findings/rings'
import { BANDS } from '../real/parts'
import { type PlantedRing, type RingingSound, ringingParts } from '../real/ringing-songs'
import { ringingTakes } from '../real/ringing-takes'

/** A sound as the finder of rings reads it. */
export interface ReadSound {
  readonly base: string
  readonly features: Features
  readonly mean: Float64Array
  /** Minus infinity at each cell where nothing is claimed, else 0. */
  readonly open: Float64Array
  /** The planted ring; null in an untouched sound. */
  readonly ring: PlantedRing | null
}

const MAKERS = { takes: ringingTakes, songs: ringingParts } as const

/**
 * Makes and reads the sounds of a set, `takes:PLAYERS:FROM-TO` or `songs:PLAYERS:FROM-TO`, seed by seed.
 * @throws RangeError for a set that is not written so.
 */
export function readSounds(set: string, onProgress: (share: number) => void): ReadSound[] {
  const [kind, players, seeds = ''] = set.split(':')
  const [first, last] = seeds.split('-').map(Number)
  if (!(kind in MAKERS) || !(players in BANDS) || !(last >= first)) {
    const [kinds, bands] = [MAKERS, BANDS].map((of) => Object.keys(of).join(' or '))
    throw new RangeError(
      `A set of sounds is ${kinds}, ${bands}, and seeds, as in takes:judging:1-99; ${set} is none.`,
    )
  }
  const make = MAKERS[kind as keyof typeof MAKERS]
  const out: ReadSound[] = []
  for (let seed = first; seed <= last; seed++) {
    out.push(...make(players as keyof typeof BANDS, [seed]).map(readSound))
    onProgress((seed - first + 1) / (last - first + 1))
  }
  return out
}

export function readSound({ base, clip, ring }: RingingSound): ReadSound {
  const { channels, sampleRateHz }: Clip = clip
  const { levels, floor } = levelGrids(channels[0], sampleRateHz)
  const open = new Float64Array(CELLS)
  leaveOutEdge(open, levels)
  return { base, features: ringFeatures(levels, floor), mean: meanProfile(levels), open, ring }
}

/** Whether a cell is the place of a planted ring, within 3 %. */
export function isAt(ring: PlantedRing | null, cell: number): boolean {
  return ring !== null && Math.abs(hzOfCell(cell) / ring.hz - 1) < 0.03
}
