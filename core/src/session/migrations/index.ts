import { fromVersion1 } from './from-version-1'
import { fromVersion2 } from './from-version-2'
import { fromVersion3 } from './from-version-3'
import { fromVersion4 } from './from-version-4'
import { fromVersion5 } from './from-version-5'
import { fromVersion6 } from './from-version-6'
import { fromVersion7 } from './from-version-7'
import { fromVersion8 } from './from-version-8'
import { fromVersion9 } from './from-version-9'
import { fromVersion10 } from './from-version-10'

/** A JSON object as it was read: nothing of it is checked yet. */
export type Loose = Record<string, unknown>

/**
 * What brings a document of each older version to the next, by the version it takes. They change only what the
 * version changed and leave everything else, spoiled or not, to the schema of today.
 */
export const MIGRATIONS: Readonly<Record<number, (document: Loose) => Loose>> = {
  1: fromVersion1,
  2: fromVersion2,
  3: fromVersion3,
  4: fromVersion4,
  5: fromVersion5,
  6: fromVersion6,
  7: fromVersion7,
  8: fromVersion8,
  9: fromVersion9,
  10: fromVersion10,
}
