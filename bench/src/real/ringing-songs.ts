import { type Clip, makeClip, type Random } from '@sober-prism/core/audio'
import { band, partRandom, RATE_HZ, shape } from '@sober-prism/demo'
import { HEARD_DB, LEAST_RISING, risingShare } from './fault-measures'
import { BANDS, eightParts } from './parts'
import { makeSong } from './song'

/** A part of a song, untouched or with one ring in it. */
export interface RingingPart {
  /** Versions of one part share this. */
  readonly base: string
  readonly clip: Clip
  /** What was put in, and whether it raises what is heard near it by 3 dB, or only by 2; null in an untouched part. */
  readonly ring: {
    readonly hz: number
    readonly db: number
    readonly q: number
    readonly rise: number
  } | null
}

const SECONDS = 24
const RINGS = 2
const TRIES = 20
/** What a clear ring raises at least, in dB. */
const CLEAR_DB = 3

/**
 * Every part of seeded songs as it is, and twice with one ring of 6 to 15 dB and Q 8 to 30 that is heard in it. In songs
 * chords go round: few notes pass a ring, and they come again.
 */
export function ringingParts(players: keyof typeof BANDS, seeds: readonly number[]): RingingPart[] {
  return seeds.flatMap((seed) => {
    const song = makeSong(partRandom(seed, 'song'), SECONDS)
    const parts = eightParts(BANDS[players], song, partRandom(seed, 'parts'))
    const random = partRandom(seed, 'songrings')
    return parts.flatMap(({ clip }, p) => {
      const base = `${players} ${seed} ${p}`
      const sound = middleOf(clip)
      const ringing = Array.from({ length: RINGS }, () => plantRing(sound, random))
      return [
        { base, clip: sound, ring: null },
        ...ringing.flatMap((found) => (found ? [{ base, ...found }] : [])),
      ]
    })
  })
}

/** Null where no ring of {@link TRIES} is heard. */
function plantRing(sound: Clip, random: Random) {
  for (let n = 0; n < TRIES; n++) {
    const hz = Math.exp(Math.log(200) + Math.log(8000 / 200) * random())
    const [db, q] = [6 + 9 * random(), 8 + 22 * random()]
    const bell = band('bell', hz, { db, q })
    if (risingShare(sound, bell, HEARD_DB) < LEAST_RISING) continue
    const rise = risingShare(sound, bell, CLEAR_DB) >= LEAST_RISING ? CLEAR_DB : HEARD_DB
    const channels = [shape(sound.channels[0].slice(), bell)]
    return { clip: makeClip(RATE_HZ, channels), ring: { hz, db, q, rise } }
  }
  return null
}

function middleOf({ channels: [left, right] }: Clip): Clip {
  return makeClip(RATE_HZ, [right ? left.map((v, i) => (v + right[i]) / 2) : left])
}
