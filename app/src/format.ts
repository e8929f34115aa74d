import { nearestNote } from '@sober-prism/core/spectrum'

const MINUS = '−'

/** As a sentence begins. */
export function capital(text: string): string {
  return text.slice(0, 1).toUpperCase() + text.slice(1)
}

/** Names as a sentence lists them: `A, B and C`. */
export function listOf(names: readonly string[]): string {
  return new Intl.ListFormat('en-GB').format(names)
}

/** A number with a real minus sign. */
export function signed(value: number, decimals = 1): string {
  const text = Math.abs(value).toFixed(decimals)
  return value < 0 && Number(text) !== 0 ? `${MINUS}${text}` : text
}

/** Frequency as engineers read it: `87.0 Hz`, `2.30 kHz`. */
export function formatHz(hz: number): string {
  return hz >= 1000
    ? `${(hz / 1000).toFixed(hz >= 10000 ? 1 : 2)} kHz`
    : `${hz.toFixed(hz >= 100 ? 0 : 1)} Hz`
}

/** Frequency with its nearest note: `2.30 kHz  D7 −37c`. */
export function formatHzWithNote(hz: number): string {
  const { name, cents } = nearestNote(hz)
  return `${formatHz(hz)}  ${name} ${cents >= 0 ? '+' : MINUS}${Math.abs(cents)}c`
}

export function formatDb(db: number | null, decimals = 1): string {
  if (db === null) return '–'
  return db <= -120 ? `${MINUS}∞` : signed(db, decimals)
}

export function formatShare(share: number, decimals = 0): string {
  return `${(share * 100).toFixed(decimals)} %`
}

/** Minutes and seconds with tenths: `0:31.4`. */
export function formatTime(seconds: number): string {
  const tenths = Math.floor(Math.max(0, seconds) * 10 + 1e-6)
  const minutes = Math.floor(tenths / 600)
  return `${minutes}:${String(Math.floor((tenths % 600) / 10)).padStart(2, '0')}.${tenths % 10}`
}

/** About how long something will take yet: `about 20 s left`. */
export function formatRemaining(seconds: number): string {
  if (seconds < 90) return `about ${Math.max(1, Math.round(seconds / 5) * 5)} s left`
  return `about ${Math.round(seconds / 60)} min left`
}

/** Bytes as people read them: `31 MB`. */
export function formatBytes(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`
  if (bytes >= 1e6) return `${(bytes / 1e6).toFixed(0)} MB`
  return `${Math.ceil(bytes / 1e3)} kB`
}

/** Reads a typed number: comma or point, either minus sign, `k` for thousand, a unit after it. */
export function parseFigure(text: string): number | null {
  const match = /^\s*([+\-−–]?)\s*(\d+(?:[.,]\d*)?|[.,]\d+)\s*(k?)\s*(?:hz|db|s)?\s*$/i.exec(text)
  if (!match) return null
  const value = Number(match[2].replace(',', '.')) * (match[3] === '' ? 1 : 1000)
  return match[1] === '' || match[1] === '+' ? value : -value
}

const SEMITONES: Readonly<Record<string, number>> = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }

/** Reads a typed frequency: a figure, or a note with cents beside it, as in `A4+15c`; A4 is 440 Hz. */
export function parseHz(text: string): number | null {
  const match = /^\s*([a-g])([#♯b♭]?)(-?\d)\s*(?:([+\-−–])\s*(\d+(?:[.,]\d*)?)\s*c)?\s*$/i.exec(
    text,
  )
  if (!match) return parseFigure(text)
  const [, letter, sign, octave, way, cents = '0'] = match
  const turned = sign === '' ? 0 : sign === '#' || sign === '♯' ? 1 : -1
  const semitone = SEMITONES[letter.toLowerCase()] + turned + 12 * (Number(octave) - 4) - 9
  const beside = Number(cents.replace(',', '.')) * (way === undefined || way === '+' ? 1 : -1)
  return 440 * 2 ** ((semitone + beside / 100) / 12)
}

/** Reads a typed width: a Q, or octaves between the edges at half of the gain, as in `0.3 oct`. */
export function parseQ(text: string): number | null {
  const match = /^(.*?)\s*oct(?:aves?)?\.?\s*$/i.exec(text)
  if (!match) return parseFigure(text)
  const octaves = parseFigure(match[1])
  return octaves !== null && octaves > 0 ? 2 ** (octaves / 2) / (2 ** octaves - 1) : null
}

/** A place between left and right, as `35 L`, or `middle`. */
export function panText(pan: number): string {
  const percent = Math.round(Math.abs(pan) * 100)
  return percent === 0 ? 'centre' : `${percent} ${pan < 0 ? 'L' : 'R'}`
}

/** Stands before a figure that is predicted, until it is measured. */
export const PREDICTED = '≈ '

/** Words of the core as they are printed: with minuses instead of hyphens before figures. */
export function printed(text: string): string {
  return text.replace(/(^|[ (])-(?=\d)/g, '$1−')
}

/** A day, as one says it. */
export function formatDay(date: Date): string {
  return new Intl.DateTimeFormat('en', { day: 'numeric', month: 'long' }).format(date)
}
