/** Two sounds meet where they come this near to each other, in dB, or the yielding one lies over the other. */
const NEAR_DB = 6
/** What lies further under the top of the picture than this is no matter. */
const REACH_DB = 48
/** Only what is near the key's own loudest range is what it is heard by. */
const OF_KEY_DB = 30

export interface Overlap {
  /** The range of frequency, by its number. */
  readonly band: number
  /** The lower of the two levels there. */
  readonly levelDb: number
}

/** The ranges in which a key and what yields to it sound at once, by their levels in dB. */
export function overlaps(key: ArrayLike<number>, own: ArrayLike<number>, topDb: number): Overlap[] {
  let loudest = Number.NEGATIVE_INFINITY
  for (let b = 0; b < key.length; b++) loudest = Math.max(loudest, key[b])
  const least = Math.max(topDb - REACH_DB, loudest - OF_KEY_DB)
  const out: Overlap[] = []
  for (let band = 0; band < key.length; band++) {
    if (key[band] < least || own[band] < key[band] - NEAR_DB) continue
    out.push({ band, levelDb: Math.min(key[band], own[band]) })
  }
  return out
}
