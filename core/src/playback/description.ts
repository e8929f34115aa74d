import * as z from 'zod'
import { bandFields, FILTER_TYPES, type FilterType, newBand } from '../filters'

z.config({ jitless: true })

const bandSchema = z.strictObject({
  type: z.enum(FILTER_TYPES),
  hz: bandFields.hz,
  db: bandFields.db.optional(),
  q: bandFields.q.optional(),
  slopeDbPerOct: bandFields.slopeDbPerOct.optional(),
})

/** What a playback does to sound, as an open description: nothing in it was measured on a certain device. */
const playbackSchema = z.strictObject({
  version: z.literal(1),
  /** By which it is called on the command line. */
  name: z.string().regex(/^[a-z][a-z0-9-]{0,39}$/),
  title: z.string().min(1).max(60),
  /** Where one hears it, to go into a sentence: "on a laptop". */
  where: z.string().min(1).max(60),
  /** What it stands for, in a sentence or two. */
  about: z.string().max(400),
  /** Limits and resonances. */
  bands: z.array(bandSchema).max(16),
  /** Gain of the sides: 0 is mono, 1 as it is. */
  sides: z.number().min(0).max(2),
  /** What of each channel reaches the other side: at this level, so much later, with its highs cut. */
  crosstalk: z
    .strictObject({
      db: z.number().min(-60).max(0),
      delayMs: z.number().min(0).max(20),
      highHz: z.number().min(200).max(20000),
    })
    .nullable(),
  /** Sound of a room behind it: level against what comes directly, time to fall by 60 dB, when it begins, its highs. */
  room: z
    .strictObject({
      db: z.number().min(-60).max(20),
      decaySeconds: z.number().min(0.05).max(2),
      afterMs: z.number().min(0).max(100),
      highHz: z.number().min(200).max(20000),
    })
    .nullable(),
  /** Peaks are held this far over the loudness of what plays. */
  limiter: z
    .strictObject({
      overLoudnessDb: z.number().min(1).max(40),
      releaseMs: z.number().min(5).max(2000),
    })
    .nullable(),
  /** A steady noise: its loudness against what plays, in LU, and its level per hertz over frequency. */
  noise: z
    .strictObject({
      lu: z.number().min(-60).max(10),
      points: z
        .array(z.strictObject({ hz: z.number().min(10).max(24000), db: z.number() }))
        .min(2)
        .max(32),
    })
    .nullable(),
  /** Level at which what plays arrives, in dB SPL; null: as in the session. */
  dbSpl: z.number().min(30).max(105).nullable(),
  /** Whether the tone is as it seems at that level (ISO 226), though it is listened to as before. */
  asLoudAs: z.boolean(),
  listening: z.enum(['speakers', 'headphones']).nullable(),
})
export type Playback = z.infer<typeof playbackSchema>
type PlaybackBand = Playback['bands'][number]

/** Reads a description. @throws RangeError with a sentence that says what is wrong in it. */
export function parsePlayback(text: string): Playback {
  let document: unknown
  try {
    document = JSON.parse(text)
  } catch {
    throw new RangeError('not a playback description: it is not JSON')
  }
  const parsed = playbackSchema.safeParse(document)
  if (parsed.success) return parsed.data
  const [{ path, message }] = parsed.error.issues
  throw new RangeError(
    `not a playback description: ${path.length > 0 ? `${path.join('.')}: ` : ''}${message}`,
  )
}

/** The bands of a description with everything that it leaves out. */
export function fullBand({ type, hz, db, q, slopeDbPerOct }: PlaybackBand) {
  const band = newBand(type, hz)
  return {
    ...band,
    db: db ?? band.db,
    q: q ?? band.q,
    slopeDbPerOct: slopeDbPerOct ?? band.slopeDbPerOct,
  }
}

const PLAIN: Omit<Playback, 'name' | 'title' | 'where' | 'about'> = {
  version: 1,
  bands: [],
  sides: 1,
  crosstalk: null,
  room: null,
  limiter: null,
  noise: null,
  dbSpl: null,
  asLoudAs: false,
  listening: null,
}

const band = (type: FilterType, hz: number, rest: Partial<PlaybackBand>): PlaybackBand => ({
  type,
  hz,
  ...rest,
})

/**
 * Playbacks that stand for kinds of listening. Their figures are round ones of our own choice: band limits as the size of
 * a loudspeaker, or a line, lets one expect; none is a certain device.
 */
export const PLAYBACKS: readonly Playback[] = [
  {
    ...PLAIN,
    name: 'telephone',
    title: 'Telephone on its loudspeaker',
    where: 'on a telephone',
    about: 'A loudspeaker of a few millimetres: nothing below 400 Hz, one sum of both channels.',
    bands: [
      band('low-cut', 420, { slopeDbPerOct: 18 }),
      band('bell', 1000, { db: 3, q: 1.2 }),
      band('bell', 3200, { db: 5, q: 2 }),
      band('high-cut', 9000, { slopeDbPerOct: 12 }),
    ],
    sides: 0,
    limiter: { overLoudnessDb: 9, releaseMs: 80 },
    dbSpl: 68,
    listening: 'speakers',
  },
  {
    ...PLAIN,
    name: 'laptop',
    title: 'Laptop',
    where: 'on a laptop',
    about: 'Two small loudspeakers close together: little below 200 Hz, narrow.',
    bands: [
      band('low-cut', 190, { slopeDbPerOct: 18 }),
      band('bell', 750, { db: 2, q: 1 }),
      band('bell', 2300, { db: -3, q: 1.5 }),
      band('bell', 5500, { db: 3, q: 1.6 }),
      band('high-cut', 14000, { slopeDbPerOct: 12 }),
    ],
    sides: 0.7,
    crosstalk: { db: -6, delayMs: 0.07, highHz: 5000 },
    limiter: { overLoudnessDb: 11, releaseMs: 100 },
    dbSpl: 66,
    listening: 'speakers',
  },
  {
    ...PLAIN,
    name: 'car',
    title: 'Car on the road',
    where: 'in a car',
    about:
      'Full lows, a resonance of the cabin, dull at the sides, and the noise of the road under it.',
    bands: [
      band('low-cut', 35, { slopeDbPerOct: 12 }),
      band('bell', 85, { db: 6, q: 1.2 }),
      band('bell', 330, { db: -3, q: 1 }),
      band('bell', 2600, { db: 2, q: 1.2 }),
      band('high-shelf', 8000, { db: -4 }),
    ],
    sides: 0.8,
    crosstalk: { db: -5, delayMs: 0.4, highHz: 3000 },
    noise: {
      lu: -12,
      points: [
        { hz: 20, db: 0 },
        { hz: 60, db: -3 },
        { hz: 100, db: -8 },
        { hz: 150, db: -13 },
        { hz: 300, db: -22 },
        { hz: 600, db: -31 },
        { hz: 1000, db: -38 },
        { hz: 2000, db: -48 },
        { hz: 4000, db: -58 },
        { hz: 12000, db: -75 },
      ],
    },
    dbSpl: 76,
    listening: 'speakers',
  },
  {
    ...PLAIN,
    name: 'next-room',
    title: 'Small loudspeaker in the next room',
    where: 'in the next room',
    about:
      'One small loudspeaker, heard through an open door: more room than sound, highs lost on the way.',
    bands: [
      band('low-cut', 110, { slopeDbPerOct: 12 }),
      band('bell', 220, { db: 2, q: 1 }),
      band('high-shelf', 2500, { db: -7 }),
      band('high-cut', 9000, { slopeDbPerOct: 12 }),
    ],
    sides: 0,
    room: { db: 4, decaySeconds: 0.45, afterMs: 8, highHz: 3500 },
    dbSpl: 56,
    listening: 'speakers',
  },
  {
    ...PLAIN,
    name: 'kitchen-radio',
    title: 'Kitchen radio',
    where: 'on a kitchen radio',
    about:
      'One loudspeaker of a hand’s breadth in a plastic box: a boxy resonance, no deep lows, peaks held.',
    bands: [
      band('low-cut', 120, { slopeDbPerOct: 12 }),
      band('bell', 260, { db: 5, q: 1.6 }),
      band('bell', 1800, { db: 2, q: 1.2 }),
      band('high-cut', 11000, { slopeDbPerOct: 12 }),
    ],
    sides: 0,
    limiter: { overLoudnessDb: 10, releaseMs: 150 },
    dbSpl: 66,
    listening: 'speakers',
  },
  {
    ...PLAIN,
    name: 'headphones',
    title: 'Small headphones',
    where: 'on small headphones',
    about:
      'Each ear hears its own channel; the lowest octave leaks out, the upper mids stand forward.',
    bands: [
      band('low-cut', 35, { slopeDbPerOct: 12 }),
      band('bell', 120, { db: 2, q: 0.8 }),
      band('bell', 2800, { db: 3, q: 1 }),
      band('bell', 6000, { db: -3, q: 2 }),
      band('high-shelf', 11000, { db: -3 }),
    ],
    listening: 'headphones',
  },
  {
    ...PLAIN,
    name: 'loud',
    title: 'Loud',
    where: 'when it is loud',
    about: 'As it seems at 88 dB SPL: more of the lowest and highest is heard (ISO 226).',
    dbSpl: 88,
    asLoudAs: true,
  },
  {
    ...PLAIN,
    name: 'very-quiet',
    title: 'Very quiet',
    where: 'when it is very quiet',
    about: 'As it seems at 45 dB SPL: little of the lows is heard (ISO 226).',
    dbSpl: 45,
    asLoudAs: true,
  },
]
