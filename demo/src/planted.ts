/** Kinds of fault that are planted in the demo; the words that findings use. */
export type PlantedKind =
  | 'masking'
  | 'resonance'
  | 'balance'
  | 'rumble'
  | 'wide-low-end'
  | 'alignment'
  | 'pile-up'

/** One fault that the synthesis puts in on purpose. */
export interface Planted {
  readonly kind: PlantedKind
  /** Names of the tracks it concerns; `mix` for the whole. */
  readonly tracks: readonly string[]
  readonly fromHz: number
  readonly toHz: number
  /** How strong, in dB: height of a ring, excess of a band, level of rumble relative to the voice. */
  readonly strengthDb: number
  readonly note: string
}

/** The ring in the singer's microphone. */
export const RING = { hz: 1180, q: 22, db: 12 } as const
/** How the far drum microphone differs: later, and turned in phase. */
export const FAR_DRUM = { delayFrames: 149, turnDeg: 140 } as const
/** The dullness of the whole ensemble. */
export const DULL = { fromHz: 4000, db: -5 } as const
/** Boost of the low mids on three tracks. */
export const PILE_UP = { hz: 320, q: 1.1, db: 5 } as const

/** Everything that is planted in "Tern Island ferry night". Tests read this table. */
export const PLANTED: readonly Planted[] = [
  {
    kind: 'masking',
    tracks: ['Accordion', 'Singer'],
    fromHz: 1200,
    toHz: 3400,
    strengthDb: 5,
    note: 'the accordion covers the singer',
  },
  {
    kind: 'resonance',
    tracks: ['Singer'],
    fromHz: 1150,
    toHz: 1210,
    strengthDb: RING.db,
    note: 'a ring in the singer',
  },
  {
    kind: 'masking',
    tracks: ['Tuba', 'Frame drum near'],
    fromHz: 55,
    toHz: 130,
    strengthDb: 3,
    note: 'tuba against frame drum',
  },
  {
    kind: 'pile-up',
    tracks: ['Accordion', 'Zither', 'Second singer'],
    fromHz: 220,
    toHz: 460,
    strengthDb: PILE_UP.db,
    note: 'low mids pile up',
  },
  {
    kind: 'rumble',
    tracks: ['Singer'],
    fromHz: 20,
    toHz: 60,
    strengthDb: -18,
    note: 'rumble under the singer',
  },
  {
    kind: 'wide-low-end',
    tracks: ['Glass harmonica'],
    fromHz: 90,
    toHz: 260,
    strengthDb: 0,
    note: 'the low end wanders in stereo',
  },
  {
    kind: 'alignment',
    tracks: ['Frame drum near', 'Frame drum far'],
    fromHz: 60,
    toHz: 400,
    strengthDb: -6,
    note: 'the far drum microphone is late and turned',
  },
  {
    kind: 'balance',
    tracks: ['mix'],
    fromHz: DULL.fromHz,
    toHz: 12000,
    strengthDb: DULL.db,
    note: 'a dull mix',
  },
]
