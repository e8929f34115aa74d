import * as z from 'zod'
import type { SheetName } from '../plot/inks'

const KEY = 'sober-prism.preferences'

const preferencesSchema = z.object({
  sheet: z.enum(['light', 'night'] satisfies readonly SheetName[]),
  evidenceOpen: z.boolean(),
  /** Steps whose introduction was put away. */
  introsClosed: z.array(
    z.enum(['sessions', 'gather', 'survey', 'clean', 'fit', 'shape', 'check', 'deliver']),
  ),
  /** Whether keys without a modifier do something; who dictates or uses a screen reader may want them off. */
  plainKeys: z.boolean(),
})

/** What is remembered of the interface from one visit to the next. */
export type Preferences = Readonly<z.infer<typeof preferencesSchema>>

export const initialPreferences: Preferences = {
  sheet: 'light',
  evidenceOpen: true,
  introsClosed: [],
  plainKeys: true,
}

/** What was kept, where it can be read; else how a first visit begins. */
export function loadPreferences(storage: Pick<Storage, 'getItem'>): Preferences {
  try {
    const kept = preferencesSchema.partial().safeParse(JSON.parse(storage.getItem(KEY) ?? '{}'))
    return { ...initialPreferences, ...(kept.success ? kept.data : {}) }
  } catch {
    return initialPreferences
  }
}

/** They are a convenience: where storage is refused they last until the page closes. */
export function keepPreferences(storage: Pick<Storage, 'setItem'>, preferences: Preferences): void {
  try {
    // The schema leaves out what is not a preference.
    storage.setItem(KEY, JSON.stringify(preferencesSchema.parse(preferences)))
  } catch {
    // See above.
  }
}

/** The browser's storage, asked only when it is used: it may be refused. */
export const browserStorage: Pick<Storage, 'getItem' | 'setItem'> = {
  getItem: (key) => localStorage.getItem(key),
  setItem: (key, value) => localStorage.setItem(key, value),
}
