import { type Clip, makeClip, type Random } from '@sober-prism/core/audio'
import { band, partRandom, RATE_HZ, shape } from '@sober-prism/demo'
import { HEARD_DB, LEAST_RISING, risingShares } from './fault-measures'
import { BANDS, eightParts } from './parts'
import { makeSong } from './song'

/** A sound, untouched or with one ring in it. */
export interface RingingSound {
  /** Versions of one sound share this. */
  readonly base: string
  readonly clip: Clip
  /** What was put in, and whether it raises what is heard near it by 3 dB, or only by 2; null in an untouched sound. */
  readonly ring: PlantedRing | null
}

export interface PlantedRing {
  /** A filter's bell, or a mode that dies away beside the direct sound. */
  readonly kind: 'bell' | 'mode'
  readonly hz: number
  readonly db: number
  readonly q: number
  readonly rise: number
}

const SECONDS = 24
const RINGS = 2
const TRIES = 20
/** What a clear ring raises at least, in dB. */
const CLEAR_DB = 3

/** What kinds of ring are put in where. */
export interface Planting {
  readonly lowestHz: number
  readonly highestHz: number
  /** Of so many rings one is a mode that dies away beside the direct sound. */
  readonly modesShare: number
}

/** In parts of songs rings are bells. */
const IN_SONGS: Planting = { lowestHz: 200, highestHz: 8000, modesShare: 0 }

/**
 * Every part of seeded songs as it is, and twice with one ring of 6 to 15 dB and Q 8 to 30 that is heard in it. In songs
 * chords go round: few notes pass a ring, and they come again.
 */
export function ringingParts(
  players: keyof typeof BANDS,
  seeds: readonly number[],
): RingingSound[] {
  return seeds.flatMap((seed) => {
    const song = makeSong(partRandom(seed, 'song'), SECONDS)
    const parts = eightParts(BANDS[players], song, partRandom(seed, 'parts'))
    const random = partRandom(seed, 'songrings')
    return parts.flatMap(({ clip }, p) => {
      const base = `songs ${players} ${seed} ${p}`
      const sound = middleOf(clip)
      const ringing = Array.from({ length: RINGS }, () => plantRing(sound, random, IN_SONGS))
      return [
        { base, clip: sound, ring: null },
        ...ringing.flatMap((found) => (found ? [{ base, ...found }] : [])),
      ]
    })
  })
}

/** One ring that is heard in a mono sound; null where none of {@link TRIES} is. */
export function plantRing(
  { channels: [sound] }: Clip,
  random: Random,
  { lowestHz, highestHz, modesShare }: Planting,
): { readonly clip: Clip; readonly ring: PlantedRing } | null {
  for (let n = 0; n < TRIES; n++) {
    const kind = modesShare > 0 && random() < modesShare ? 'mode' : 'bell'
    const hz = Math.exp(Math.log(lowestHz) + Math.log(highestHz / lowestHz) * random())
    const [db, q] = [6 + 9 * random(), 8 + 22 * random()]
    const planted =
      kind === 'bell'
        ? { hz, db, sound: shape(sound.slice(), band('bell', hz, { db, q })) }
        : withMode(sound, { hz, db, q }, random)
    const shares = risingShares(sound, planted.sound, planted.hz, [HEARD_DB, CLEAR_DB])
    if (shares[0] < LEAST_RISING) continue
    const rise = shares[1] >= LEAST_RISING ? CLEAR_DB : HEARD_DB
    const clip = makeClip(RATE_HZ, [planted.sound])
    return { clip, ring: { kind, hz: planted.hz, db: planted.db, q, rise } }
  }
  return null
}

/**
 * A resonator of two poles beside the direct sound, its phase any, half of them up to 6 ms late; `q` is the mode's own. What
 * it does is read off its response: where that is highest, and how high.
 */
function withMode(
  sound: Float32Array,
  { hz, db, q }: { readonly hz: number; readonly db: number; readonly q: number },
  random: Random,
): { readonly sound: Float32Array; readonly hz: number; readonly db: number } {
  const w = (2 * Math.PI * hz) / RATE_HZ
  const r = Math.exp(-w / (2 * q))
  const phase = (1.2 * random() - 0.6) * Math.PI
  const late = random() < 0.5 ? Math.round(0.006 * random() * RATE_HZ) : 0
  const [b0, b1] = [Math.sin(phase), r * Math.sin(w - phase)]
  const [a1, a2] = [-2 * r * Math.cos(w), r * r]
  /** The mode's own response at an angular frequency, by real and imaginary part. */
  const modeAt = (v: number) => {
    const [nr, ni] = [b0 + b1 * Math.cos(v), -b1 * Math.sin(v)]
    const [dr, di] = [
      1 + a1 * Math.cos(v) + a2 * Math.cos(2 * v),
      -a1 * Math.sin(v) - a2 * Math.sin(2 * v),
    ]
    const under = dr * dr + di * di
    const [re, im] = [(nr * dr + ni * di) / under, (ni * dr - nr * di) / under]
    const [c, s] = [Math.cos(v * late), -Math.sin(v * late)]
    return [re * c - im * s, re * s + im * c] as const
  }
  // In phase with the direct sound both add up to the height; else the mode alone has it.
  const gain = (10 ** (db / 20) - (Math.abs(phase) < 0.5 ? 1 : 0)) / Math.hypot(...modeAt(w))
  const out = sound.slice()
  let [x1, y1, y2] = [0, 0, 0]
  for (let i = 0; i + late < out.length; i++) {
    const y = b0 * sound[i] + b1 * x1 - a1 * y1 - a2 * y2
    ;[x1, y2, y1] = [sound[i], y1, y]
    out[i + late] += gain * y
  }
  let [topHz, topDb] = [hz, Number.NEGATIVE_INFINITY]
  for (let step = -40; step <= 40; step++) {
    const at = hz * 2 ** (step / (40 * q))
    const [re, im] = modeAt((2 * Math.PI * at) / RATE_HZ)
    const level = 20 * Math.log10(Math.hypot(1 + gain * re, gain * im))
    if (level > topDb) [topHz, topDb] = [at, level]
  }
  return { sound: out, hz: topHz, db: topDb }
}

function middleOf({ channels: [left, right] }: Clip): Clip {
  return makeClip(RATE_HZ, [right ? left.map((v, i) => (v + right[i]) / 2) : left])
}
