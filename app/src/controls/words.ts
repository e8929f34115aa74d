/**
 * What the words of this application mean: told where each first stands on a page, and listed in the dialog of commands.
 * docs/words.md holds the same sentences, with all others.
 */
export const WORDS = {
  Align:
    'a treatment that shifts a recording by samples, inverts its polarity and rotates its phase',
  'Broad strokes': 'tilt, shelves, width and dynamics in broad steps, for closed eyes',
  'Drawn curve':
    'a linear-phase filter with the frequency response that is drawn (`drawn-curve` in files)',
  'Dynamic EQ': "bands that move with a key or with the sound's own level (`follow` in files)",
  Equaliser: 'bands at fixed frequencies, of minimum, mixed or linear phase',
  finding: 'a measured problem with its evidence and proposed moves',
  hunt: 'to move a narrow boost by ear until a resonance sticks out, and to cut it there',
  Key: 'the sound that a treatment listens to',
  lead: 'a track that others make room for',
  Leveller: 'slow levelling with a threshold that is found in the passage',
  mask: 'to make a part of another sound inaudible while both play',
  Match: "brings a sound's spectrum close to that of another, with bands or one long filter",
  'Match filter': "one long filter that makes one sound's spectrum another's (`match` in files)",
  'Mono low end': 'a treatment that makes the lows mono (`low-middle` in files)',
  Multiband: 'a crossover with a chain for each band (`split` in files)',
  Output: 'gain after a chain; bypass takes it away with the chain',
  passage: 'the part of the piece that is measured and looped',
  plan: 'the fewest moves that bring the leads forward, in order',
  'plumb line': 'the vertical line that reads all pictures at one frequency',
  profile: 'long-term spectrum, width and dynamics of a sound that outlive it',
  resonance: 'a frequency that rings whatever is played',
  Saturation: 'smooth distortion; its control is *Drive* (`drive` in files)',
  'share heard': "part of a track's loudness that is not masked by the others",
  sone: 'unit of perceived loudness: twice the sones sound twice as loud',
  'Spectral ducking': 'a bank of fine bands that gives way to a key (`duck` in files)',
  stem: 'a group after its fader and pan, with all that flows into it',
  strip:
    'the spectrum of one track or group: what is heard of it stands in ink, what is masked is grey',
  Trim: 'gain ahead of a chain: the working level; no bypass touches it',
  words:
    'how well words are understood beside the other tracks, 0 to 1 (Speech Intelligibility Index, ANSI S3.5)',
  'working levels': 'trims that bring all tracks to useful levels, the leads above the rest',
} as const satisfies Record<string, string>

export type Word = keyof typeof WORDS

/** The meaning of a word as a sentence of its own, as the screen sets it, without what is said of names in files. */
export function meaningOf(word: Word): string {
  const meaning = WORDS[word]
    .replace(/ \(`.*\)$/, '')
    .replaceAll('*', '')
    .replaceAll("'", '’')
  return meaning.charAt(0).toUpperCase() + meaning.slice(1)
}
