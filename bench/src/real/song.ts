import type { Random } from '@sober-prism/core/audio'
import type { Stroke } from './players'

/** A song: its tempo, and for each bar of four beats the keys (0 to 11) of its chord. */
export interface Song {
  readonly beat: number
  readonly seconds: number
  readonly chords: readonly (readonly number[])[]
  readonly scale: readonly number[]
}

const SCALES = [
  [0, 2, 4, 5, 7, 9, 11],
  [0, 2, 3, 5, 7, 8, 10],
  [0, 2, 3, 5, 7, 9, 10],
] as const
const PROGRESSIONS = [
  [0, 4, 5, 3],
  [0, 5, 3, 4],
  [0, 3, 0, 4],
  [0, 6, 5, 4],
  [0, 2, 3, 4],
] as const

export function makeSong(random: Random, seconds: number): Song {
  const root = Math.floor(12 * random())
  const scale = pick(random, SCALES).map((k) => k + root)
  const degrees = pick(random, PROGRESSIONS)
  const beat = 60 / (74 + 66 * random())
  const bars = Math.ceil(seconds / (4 * beat))
  const chords = Array.from({ length: bars }, (_, bar) => {
    const degree = degrees[bar % degrees.length]
    return [0, 2, 4].map((step) => scale[(degree + step) % 7] % 12)
  })
  return { beat, seconds, chords, scale: scale.map((k) => k % 12) }
}

export function pick<T>(random: Random, of: readonly T[]): T {
  return of[Math.floor(of.length * random())]
}

/** A line that walks over the scale and rests between its phrases of two to three bars. */
export function line(song: Song, random: Random, low: number, high: number): Stroke[] {
  const keys = keysOf(song.scale, low, high)
  let at = Math.floor(keys.length / 2)
  return inBars(song, random, (bar, start) => {
    if (bar % 4 === 3) return []
    const strokes: Stroke[] = []
    const values = pick(random, [
      [1, 1, 2],
      [0.5, 0.5, 1, 2],
      [1.5, 0.5, 1, 1],
      [2, 2],
    ] as const)
    let beat = 0
    for (const value of values) {
      at = Math.max(0, Math.min(keys.length - 1, at + Math.round(6 * random() - 3)))
      strokes.push(stroke(song, start + beat, 0.92 * value, keys[at], 92, random))
      beat += value
    }
    return strokes
  })
}

/** Chords that are held through their bar. */
export function held(song: Song, random: Random, low: number, high: number): Stroke[] {
  return inBars(song, random, (bar, start) =>
    voicing(song, bar, low, high).map((key) => stroke(song, start, 3.9, key, 76, random)),
  )
}

/** Chords on the beats and between them. */
export function comped(song: Song, random: Random, low: number, high: number): Stroke[] {
  const at = pick(random, [
    [0, 1.5, 2, 3.5],
    [0, 1, 2, 3],
    [0.5, 1.5, 2.5, 3.5],
    [0, 0.75, 1.5, 2.5, 3],
  ] as const)
  return inBars(song, random, (bar, start) =>
    at.flatMap((beat) =>
      voicing(song, bar, low, high).map((key) => stroke(song, start + beat, 0.45, key, 84, random)),
    ),
  )
}

/** Chords in broken quavers. */
export function broken(song: Song, random: Random, low: number, high: number): Stroke[] {
  return inBars(song, random, (bar, start) => {
    const keys = voicing(song, bar, low, high)
    return Array.from({ length: 8 }, (_, i) =>
      stroke(song, start + i / 2, 0.9, keys[[0, 1, 2, 3, 2, 1, 2, 1][i] % keys.length], 80, random),
    )
  })
}

/** Roots and now and then a fifth, in the rhythm of the bass drum. */
export function bassLine(song: Song, random: Random, low: number): Stroke[] {
  const at = pick(random, [
    [0, 1.5, 2, 3],
    [0, 2, 2.5],
    [0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5],
    [0, 1, 2, 3],
  ] as const)
  return inBars(song, random, (bar, start) =>
    at.map((beat, i) => {
      const pitch = song.chords[bar][i % 4 === 3 ? 2 : 0]
      const key = low + ((pitch - low + 120) % 12)
      const length = (at[i + 1] ?? 4) - beat
      return stroke(song, start + beat, 0.9 * length, key, 96, random)
    }),
  )
}

/** The pieces of a kit, by General MIDI's keys of percussion. */
export type KitPiece = 'kick' | 'snare' | 'hats' | 'toms' | 'cymbals' | 'hands'

/** A beat of sixteenths with fills, for each piece of the kit. */
export function drumBeat(song: Song, random: Random): Record<KitPiece, Stroke[]> {
  const kick = Array.from({ length: 16 }, (_, i) => i % 8 === 0 || (i % 2 === 0 && random() < 0.25))
  const step = random() < 0.5 ? 2 : 1
  const beat: Record<KitPiece, Stroke[]> = {
    kick: [],
    snare: [],
    hats: [],
    toms: [],
    cymbals: [],
    hands: [],
  }
  const hit = (piece: KitPiece, at: number, key: number, velocity: number) =>
    beat[piece].push(stroke(song, at, 0.3, key, velocity, random))
  song.chords.forEach((_, bar) => {
    const isFill = bar % 4 === 3
    if (bar % 8 === 0) hit('cymbals', 4 * bar, 49, 98)
    for (let i = 0; i < 16; i++) {
      const at = 4 * bar + i / 4
      const filling = isFill && i >= 12
      if (kick[i]) hit('kick', at, 36, 104)
      if (i % 8 === 4) hit('snare', at, 38, 104)
      if (i % step === 0 && !filling) hit('hats', at, i % 8 === 6 ? 46 : 42, i % 4 === 0 ? 92 : 70)
      if (filling) hit('toms', at, [48, 47, 45, 43][i - 12], 96)
      if (i % 4 === 2 || (i % 2 === 1 && random() < 0.3)) {
        hit('hands', at, pick(random, [62, 63, 64]), 78)
      }
    }
  })
  return beat
}

/** When the phrases of a voice begin, in seconds: every other bar, a little after its first beat. */
export function phraseStarts(song: Song): number[] {
  const bar = 4 * song.beat
  return song.chords.flatMap((_, i) => (i % 2 === 0 ? [i * bar + 0.25 * song.beat] : []))
}

function inBars(
  song: Song,
  random: Random,
  of: (bar: number, startBeat: number) => Stroke[],
): Stroke[] {
  // Players leave a bar out now and then.
  return song.chords.flatMap((_, bar) => (bar > 0 && random() < 0.06 ? [] : of(bar, 4 * bar)))
}

function voicing(song: Song, bar: number, low: number, high: number): number[] {
  const keys = keysOf(song.chords[bar], low, high)
  const middle = Math.max(0, Math.floor(keys.length / 2) - 2)
  return keys.slice(middle, middle + 4)
}

function keysOf(pitches: readonly number[], low: number, high: number): number[] {
  const keys: number[] = []
  for (let key = low; key <= high; key++) if (pitches.includes(key % 12)) keys.push(key)
  return keys
}

function stroke(
  { beat }: Song,
  atBeat: number,
  beats: number,
  key: number,
  velocity: number,
  random: Random,
): Stroke {
  const loose = 0.012 * (random() - 0.5)
  return {
    seconds: Math.max(0, atBeat * beat + 0.05 + loose),
    length: beats * beat,
    key,
    velocity: Math.max(30, Math.min(120, Math.round(velocity + 18 * (random() - 0.5)))),
  }
}
