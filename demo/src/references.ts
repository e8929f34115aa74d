import { makeClip } from '@sober-prism/core/audio'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import { accordion, frameDrum, glass, tuba, voice, zither } from './instruments'
import { addRoom } from './room'
import {
  arpeggio,
  bassPart,
  chordsPart,
  drumPart,
  LANTERN,
  longTones,
  melody,
  type Piece,
  QUAY,
} from './score'
import { addInto, band, partRandom, RATE_HZ, shape, toPeak } from './sound'

/** A finished recording of another piece. */
export interface DemoReference {
  readonly name: string
  readonly channels: readonly Float32Array[]
}

/** Finished music falls about 4.5 dB per octave in density, which is 1.5 dB in fractional octaves. */
const SLOPE_DB_PER_OCTAVE = -1.5
const SHAPED = [50, 100, 200, 400, 800, 1600, 3150, 6300, 10000] as const

export function referenceMakers(seed: number): readonly (() => DemoReference)[] {
  return [
    () => ({ name: 'Quay', channels: record(QUAY, seed + 1, [0.5, 0.45, 0.8, 0.6, 0.35, 0.12]) }),
    () => ({
      name: 'Lantern',
      channels: record(LANTERN, seed + 2, [0.55, 0.3, 0.7, 0.4, 0.4, 0.25]),
    }),
  ]
}

type Balance = readonly [
  voice: number,
  keys: number,
  bass: number,
  drum: number,
  strings: number,
  glass: number,
]

function record(piece: Piece, seed: number, levels: Balance): Float32Array[] {
  const random = (part: string) => partRandom(seed, part)
  const singer = voice(piece, melody(piece, random('melody'), 57, 74, 1), random('voice'), {
    throat: 1.05,
    breath: 0.12,
    vibratoCents: 25,
  })
  const parts: (readonly [readonly Float32Array[], number])[] = [
    [[singer], levels[0]],
    [accordion(piece, chordsPart(piece, random('chords')), random('keys')), levels[1]],
    [[tuba(piece, bassPart(piece), random('bass'))], levels[2]],
    [[frameDrum(piece, drumPart(piece, random('strokes')), random('drum'))], levels[3]],
    [zither(piece, arpeggio(piece, random('arpeggio')), random('strings')), levels[4]],
    [glass(piece, longTones(piece, 60, 79), random('glass')), levels[5]],
  ]
  const mix = [new Float32Array(singer.length), new Float32Array(singer.length)]
  for (const [channels, level] of parts) {
    toPeak(channels, 20 * Math.log10(level))
    mix.forEach((side, c) => {
      addInto(side, channels[c % channels.length])
    })
  }
  mix.forEach((side, c) => {
    addRoom(side, 0.1, 1.1, c as 0 | 1)
  })
  balance(mix)
  toPeak(mix, -1)
  return mix
}

/** Shapes a mix in broad strokes until its octaves lie on the slope, as a finished recording does. */
function balance(mix: readonly Float32Array[]): void {
  const octaves = makeBands('third')
  for (let round = 0; round < 3; round++) {
    const levels = longTermLevels(makeClip(RATE_HZ, mix), octaves)
    const at = (hz: number) => {
      const near = octaves
        .map((b, i) => ({ i, away: Math.abs(Math.log2(b.hz / hz)) }))
        .filter((b) => b.away < 0.55)
      const power = near.reduce((sum, b) => sum + 10 ** (levels[b.i] / 10), 0)
      return 10 * Math.log10(power / near.length)
    }
    const anchor = at(800)
    const bands = SHAPED.map((hz) => {
      const wanted = anchor + SLOPE_DB_PER_OCTAVE * Math.log2(hz / 800)
      const db = Math.max(-12, Math.min(12, 0.8 * (wanted - at(hz))))
      return band('bell', hz, { db, q: 1.2 })
    })
    for (const side of mix) shape(side, ...bands)
  }
}
