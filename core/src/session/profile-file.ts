import { type Profile, profileSchema } from '../match'
import { parsedBy } from './document-error'
import { parseJson } from './eq-file'

/**
 * Reads a profile (docs/formats.md). Strict: what does not fit is told by its path, and nothing is half-read.
 * @throws DocumentError
 */
export function parseProfile(text: string): Profile {
  return parsedBy(profileSchema, parseJson(text, 'profile'), 'profile')
}

/** Writes a profile, figures to a thousandth. */
export function writeProfile(profile: Profile): string {
  return JSON.stringify(profile, (_, value) =>
    typeof value === 'number' ? Math.round(value * 1000) / 1000 : value,
  )
}
