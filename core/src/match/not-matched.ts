import { LEAST_PROFILE_DB, type Profile, THIRDS } from './profile'

/** A difference that stays, whatever an equaliser does. */
export interface NotMatched {
  readonly what: 'room' | 'noise' | 'dynamics' | 'width'
  /** Of the sound, and of the target; null where one of them has none. */
  readonly from: number
  readonly to: number
  /** s: time to die away; dB: noise below the loudness, sides against the middle; LU: range of loudness. */
  readonly unit: 's' | 'dB' | 'LU'
}

/** Smaller differences are not worth a word. */
const ROOM_RATIO = 1.5
const LEAST_ROOM_SECONDS = 0.1
const NOISE_DB = 6
/** Noise so far below the sound is not heard. */
const INAUDIBLE_NOISE_DB = -70
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
  const [noise, toNoise] = [noiseOf(from, givenDb), noiseOf(to, null)]
  if (noise !== null && toNoise !== null) {
    const [a, b] = [noise, toNoise].map((v) => Math.max(INAUDIBLE_NOISE_DB, v))
    if (Math.abs(a - b) > NOISE_DB) {
      found.push({ what: 'noise', from: rounded(noise, 1), to: rounded(toNoise, 1), unit: 'dB' })
    }
  }
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

/** Level of the pauses against the whole, in dB, unweighted above 100 Hz; with a correction on, as it then is. */
export function noiseOf(
  { thirds, twelfths: _ }: Profile,
  givenDb: readonly number[] | null,
): number | null {
  if (!thirds.noiseDb) return null
  const gain = (i: number) => givenDb?.[Math.min(givenDb.length - 1, 4 * i)] ?? 0
  const sum = (levels: readonly number[]) =>
    THIRDS.reduce((s, { hz }, i) => (hz < 100 ? s : s + 10 ** ((levels[i] + gain(i)) / 10)), 0)
  return 10 * Math.log10(sum(thirds.noiseDb) / sum(thirds.meanDb) + 1e-20)
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
