import { LEAST_PROFILE_DB, type Profile, THIRDS } from './profile'

/** A difference that stays, whatever an equaliser does. */
export interface NotMatched {
  readonly what: 'room' | 'noise' | 'dynamics' | 'width'
  /** Of the sound, and of the target. */
  readonly from: number
  readonly to: number
  /** s: time to die away; dB: noise below the loudness, sides against the middle; LU: range of loudness. */
  readonly unit: 's' | 'dB' | 'LU'
  /** Of which one it is only known that it is no more than the figure. */
  readonly atMost?: 'from' | 'to'
}

/** Smaller differences are not worth a word. */
const ROOM_RATIO = 1.5
const LEAST_ROOM_SECONDS = 0.1
const NOISE_DB = 6
/** Noise so far below the sound is not heard. */
export const INAUDIBLE_NOISE_DB = -70
const RANGE_LU = 4
const WIDTH_DB = 4
/** Mono, as a figure that can be written. */
const MONO_DB = -60

/** What remains different between two sounds once their spectra are alike. Only what can be told of both. */
export function notMatched(
  from: Profile,
  to: Profile,
  givenDb: readonly number[] | null = null,
): NotMatched[] {
  const found: NotMatched[] = []
  const [room, toRoom] = [from.decaySeconds, to.decaySeconds]
  if (room !== null && toRoom !== null && Math.abs(room - toRoom) > LEAST_ROOM_SECONDS) {
    const ratio = room / toRoom
    if (ratio > ROOM_RATIO || ratio < 1 / ROOM_RATIO) {
      found.push({ what: 'room', from: rounded(room, 2), to: rounded(toRoom, 2), unit: 's' })
    }
  }
  const noise = noiseDifference(from, to, givenDb)
  if (noise) found.push(noise)
  const [range, toRange] = [from.loudness.rangeLu, to.loudness.rangeLu]
  if (range !== null && toRange !== null && Math.abs(range - toRange) > RANGE_LU) {
    found.push({ what: 'dynamics', from: rounded(range, 1), to: rounded(toRange, 1), unit: 'LU' })
  }
  const [width, toWidth] = [widthOf(from), widthOf(to)]
  if (Math.abs(width - toWidth) > WIDTH_DB) {
    found.push({ what: 'width', from: rounded(width, 1), to: rounded(toWidth, 1), unit: 'dB' })
  }
  return found
}

/** Noise that one of the two has, and how much the other one has, or has at most. */
function noiseDifference(
  from: Profile,
  to: Profile,
  givenDb: readonly number[] | null,
): NotMatched | null {
  const known = [noiseOf(from, givenDb), noiseOf(to, null)]
  const [a, b] = [
    known[0] ?? pauseLevel(from, from.thirds.quietDb, givenDb),
    known[1] ?? pauseLevel(to, to.thirds.quietDb, null),
  ]
  if (a === null || b === null) return null
  const more = Math.max(INAUDIBLE_NOISE_DB, a) - Math.max(INAUDIBLE_NOISE_DB, b)
  // The noisier one has to be known; of the other it is enough that it has no more.
  if (Math.abs(more) <= NOISE_DB || known[more > 0 ? 0 : 1] === null) return null
  const bounded = known[0] === null ? 'from' : known[1] === null ? 'to' : null
  return {
    what: 'noise',
    from: rounded(a, 1),
    to: rounded(b, 1),
    unit: 'dB',
    ...(bounded && { atMost: bounded }),
  }
}

/** Level of the noise against the whole, in dB, unweighted above 100 Hz; with a correction on, as it then is. */
export function noiseOf(profile: Profile, givenDb: readonly number[] | null): number | null {
  return pauseLevel(profile, profile.thirds.noiseDb, givenDb)
}

function pauseLevel(
  { thirds }: Profile,
  pausesDb: readonly number[] | null,
  givenDb: readonly number[] | null,
): number | null {
  if (!pausesDb) return null
  const gain = (i: number) => givenDb?.[Math.min(givenDb.length - 1, 4 * i)] ?? 0
  const sum = (levels: readonly number[]) =>
    THIRDS.reduce((s, { hz }, i) => (hz < 100 ? s : s + 10 ** ((levels[i] + gain(i)) / 10)), 0)
  return 10 * Math.log10(sum(pausesDb) / sum(thirds.meanDb) + 1e-20)
}

/** Sides against the middle over everything, in dB; -60 for mono. */
export function widthOf({ thirds }: Profile): number {
  let sides = 0
  let middle = 0
  thirds.meanDb.forEach((db, i) => {
    const power = 10 ** (db / 10)
    const width = thirds.widthDb[i]
    const share = width <= LEAST_PROFILE_DB ? 0 : 10 ** (width / 10)
    sides += (power * share) / (1 + share)
    middle += power / (1 + share)
  })
  return Math.max(MONO_DB, 10 * Math.log10(sides / Math.max(1e-30, middle) + 1e-20))
}

function rounded(value: number, digits: number): number {
  return Number(value.toFixed(digits))
}
