const NAMES = ['C', 'C♯', 'D', 'E♭', 'E', 'F', 'F♯', 'G', 'A♭', 'A', 'B♭', 'B'] as const

/** The nearest equal-tempered note and its distance, with A4 = 440 Hz and C4 in the middle. */
export interface NoteReading {
  readonly name: string
  /** How far the frequency lies above (+) or below (-) the note, in cents. */
  readonly cents: number
}

/** Names a frequency in Hz. */
export function nearestNote(hz: number): NoteReading {
  const midi = 69 + 12 * Math.log2(hz / 440)
  const nearest = Math.round(midi)
  const name = NAMES[((nearest % 12) + 12) % 12]
  return {
    name: `${name}${Math.floor(nearest / 12) - 1}`,
    cents: Math.round((midi - nearest) * 100),
  }
}
