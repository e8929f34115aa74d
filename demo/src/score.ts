import type { Random } from '@sober-prism/core/audio'

/** One note: start and length in beats, MIDI note number, strength 0 to 1. */
export interface Note {
  readonly beat: number
  readonly beats: number
  readonly note: number
  readonly strength: number
}

/** A piece: tempo and harmony, from which each instrument's part is made. */
export interface Piece {
  readonly beatsPerMinute: number
  readonly beatsPerBar: number
  /** One chord per bar: root (MIDI, octave 3) and the intervals above it. */
  readonly chords: readonly Chord[]
}

interface Chord {
  readonly root: number
  readonly tones: readonly number[]
}

const MINOR = [0, 3, 7] as const
const MAJOR = [0, 4, 7] as const
const SEVENTH = [0, 4, 7, 10] as const

const chord = (root: number, tones: readonly number[]): Chord => ({ root, tones })

const WALTZ_A = [
  chord(50, MINOR),
  chord(55, MINOR),
  chord(57, SEVENTH),
  chord(50, MINOR),
  chord(58, MAJOR),
  chord(53, MAJOR),
  chord(57, SEVENTH),
  chord(50, MINOR),
]
const WALTZ_B = [
  chord(53, MAJOR),
  chord(48, MAJOR),
  chord(55, MINOR),
  chord(50, MINOR),
  chord(58, MAJOR),
  chord(55, MINOR),
  chord(57, SEVENTH),
  chord(50, MINOR),
]

/** The slow waltz on the car deck: 30 bars, 64 seconds. */
export const WALTZ: Piece = {
  beatsPerMinute: 84,
  beatsPerBar: 3,
  chords: [...WALTZ_A, ...WALTZ_B, ...WALTZ_A, ...WALTZ_B.slice(2)],
}

/** "Quay": a walking piece in four. */
export const QUAY: Piece = {
  beatsPerMinute: 96,
  beatsPerBar: 4,
  chords: [
    chord(55, MAJOR),
    chord(52, MINOR),
    chord(48, MAJOR),
    chord(50, SEVENTH),
    chord(55, MAJOR),
    chord(59, MINOR),
    chord(48, MAJOR),
    chord(50, SEVENTH),
    chord(48, MAJOR),
    chord(55, MAJOR),
    chord(57, MINOR),
    chord(50, SEVENTH),
    chord(55, MAJOR),
    chord(52, MINOR),
    chord(50, SEVENTH),
    chord(55, MAJOR),
  ],
}

/** "Lantern": slow, in four, in another key. */
export const LANTERN: Piece = {
  beatsPerMinute: 72,
  beatsPerBar: 4,
  chords: [
    chord(57, MINOR),
    chord(53, MAJOR),
    chord(48, MAJOR),
    chord(55, MAJOR),
    chord(57, MINOR),
    chord(50, MINOR),
    chord(52, SEVENTH),
    chord(57, MINOR),
    chord(53, MAJOR),
    chord(48, MAJOR),
    chord(52, SEVENTH),
    chord(57, MINOR),
  ],
}

export function beatSeconds(piece: Piece): number {
  return 60 / piece.beatsPerMinute
}

export function pieceSeconds(piece: Piece): number {
  return piece.chords.length * piece.beatsPerBar * beatSeconds(piece)
}

/** A singable line over the chords: phrases of four bars that end in a breath. */
export function melody(
  piece: Piece,
  random: Random,
  low: number,
  high: number,
  fromBar = 0,
): Note[] {
  const notes: Note[] = []
  const patterns =
    piece.beatsPerBar === 3
      ? [[3], [2, 1], [1, 1, 1], [1.5, 0.5, 1]]
      : [[4], [2, 2], [3, 1], [1, 1, 2]]
  let last = (low + high) / 2
  for (let bar = fromBar; bar < piece.chords.length; bar++) {
    const phraseEnd = bar % 4 === 3
    const pattern = phraseEnd
      ? [piece.beatsPerBar - 0.5]
      : patterns[Math.floor(random() * patterns.length)]
    let beat = bar * piece.beatsPerBar
    for (const beats of pattern) {
      last = nearTone(piece.chords[bar], last + (random() - 0.5) * 9, low, high)
      notes.push({ beat, beats: beats * 0.96, note: last, strength: 0.7 + 0.3 * random() })
      beat += beats
    }
  }
  return notes
}

/** A second line that follows a first at a third or sixth below, resting now and then. */
export function harmonyBelow(
  piece: Piece,
  line: readonly Note[],
  low: number,
  high: number,
): Note[] {
  return line
    .filter((n) => Math.floor(n.beat / (piece.beatsPerBar * 4)) % 2 === 1 || n.beats > 1.2)
    .map((n) => {
      const bar = Math.min(piece.chords.length - 1, Math.floor(n.beat / piece.beatsPerBar))
      return { ...n, beat: n.beat + 0.02, note: nearTone(piece.chords[bar], n.note - 4, low, high) }
    })
}

/** Chords after the first beat of each bar, held over bars now and then. */
export function chordsPart(piece: Piece, random: Random): Note[] {
  return piece.chords.flatMap((c, bar) => {
    const start = bar * piece.beatsPerBar
    const held = bar % 4 >= 2
    const beats = held ? [[0, piece.beatsPerBar * 0.98]] : afterbeats(piece)
    return beats.flatMap(([at, length]) =>
      c.tones.slice(0, 3).map((tone) => ({
        beat: start + at + 0.01 * random(),
        beats: length,
        note: c.root + tone + (c.root < 53 ? 12 : 0),
        strength: 0.7 + 0.3 * random(),
      })),
    )
  })
}

function afterbeats(piece: Piece): number[][] {
  return Array.from({ length: piece.beatsPerBar - 1 }, (_, i) => [i + 1, 0.8])
}

/** Roots on the first beat, fifths in between, an octave or more below the chords. */
export function bassPart(piece: Piece): Note[] {
  return piece.chords.flatMap((c, bar) => {
    const root = c.root - (c.root > 54 ? 24 : 12)
    const start = bar * piece.beatsPerBar
    const second =
      bar % 2 === 1
        ? [{ beat: start + piece.beatsPerBar - 1, beats: 0.9, note: root + 7 - 12, strength: 0.7 }]
        : []
    return [{ beat: start, beats: piece.beatsPerBar - 1.2, note: root, strength: 1 }, ...second]
  })
}

/** Strokes of the frame drum: low on one, lighter after. */
export function drumPart(piece: Piece, random: Random): Note[] {
  return piece.chords.flatMap((_, bar) =>
    Array.from({ length: piece.beatsPerBar * 2 }, (_, half) => half)
      .filter((half) => half % 2 === 0 || random() < 0.3)
      .map((half) => ({
        beat: bar * piece.beatsPerBar + half / 2,
        beats: 0.5,
        note: half === 0 ? 0 : 1,
        strength: half === 0 ? 1 : half % 2 === 0 ? 0.55 : 0.3,
      })),
  )
}

/** Broken chords in quavers over two octaves. */
export function arpeggio(piece: Piece, random: Random): Note[] {
  return piece.chords.flatMap((c, bar) => {
    const ladder = [...c.tones.map((t) => t + 12), ...c.tones.map((t) => t + 24)]
    return Array.from({ length: piece.beatsPerBar * 2 }, (_, i) => ({
      beat: bar * piece.beatsPerBar + i / 2 + 0.01 * random(),
      beats: 3,
      note: c.root + ladder[(i + bar) % ladder.length],
      strength: 0.5 + 0.5 * random(),
    })).filter(() => random() < 0.85)
  })
}

/** Long tones: one or two of each chord, held for two bars. */
export function longTones(piece: Piece, low: number, high: number): Note[] {
  return piece.chords.flatMap((c, bar) =>
    bar % 2 === 1
      ? []
      : [0, 2].map((i) => ({
          beat: bar * piece.beatsPerBar,
          beats: piece.beatsPerBar * 2 * 0.97,
          note: nearTone(c, i === 0 ? low : high, low, high),
          strength: i === 0 ? 1 : 0.7,
        })),
  )
}

function nearTone(c: Chord, wish: number, low: number, high: number): number {
  let best = c.root
  let distance = Number.POSITIVE_INFINITY
  for (let octave = -3; octave <= 3; octave++) {
    for (const tone of c.tones) {
      const note = c.root + tone + 12 * octave
      if (note < low || note > high) continue
      if (Math.abs(note - wish) < distance) {
        distance = Math.abs(note - wish)
        best = note
      }
    }
  }
  return best
}
