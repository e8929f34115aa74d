import { createAction } from '@reduxjs/toolkit'
import {
  applyEdits,
  type Edit,
  emptySession,
  type Role,
  type Session,
} from '@sober-prism/core/session'
import { type EditMeta, withHistory } from './history'

/** A session is opened, or closed. */
const opened = createAction<Session | null>('session/opened')
/** Edits that belong together: one step back undoes them all. */
const edited = createAction('session/edited', (edits: readonly Edit[], meta: EditMeta = {}) => ({
  payload: edits,
  meta,
}))

export const sessionActions = { opened, edited }

/** The document changes by edits alone. @throws DocumentError where an edit is refused. */
function reduce(session: Session | null = null, action: { type: string }): Session | null {
  if (opened.match(action)) return action.payload
  return session && edited.match(action) ? applyEdits(session, action.payload) : session
}

export const sessionReducer = withHistory(reduce, opened.type)

const ROLE_WORDS: readonly (readonly [RegExp, Role])[] = [
  [/speech|voice-?over|(?<![a-z])vo(?![a-z])|dialog|narrat|announce|host|talk/i, 'speech'],
  [/voice|voc|vox|(?<![a-z])sing|choir|lead v/i, 'voice'],
  [/piano|key|organ|synth|accordion|harmonium/i, 'keys'],
  [/bass|tuba|(?<![a-z])sub(?![a-z])/i, 'bass'],
  [/drum|kick|snare|hi-?hat|(?<![a-z])hats?(?![a-z])|perc|(?<![a-z])tom|cymbal/i, 'drums'],
  [/violin|cello|viola|string|zither|harp/i, 'strings'],
  [/flute|clarinet|horn|trumpet|sax|oboe|brass/i, 'winds'],
  [/guitar|gtr/i, 'guitar'],
  [/noise|ambien|room|atmos/i, 'ambience'],
]

/** A first guess from the name; the user sets it right. */
export function guessRole(name: string): Role {
  return ROLE_WORDS.find(([words]) => words.test(name))?.[1] ?? 'other'
}

export function newSession(name: string): Session {
  return emptySession(crypto.randomUUID(), name, new Date().toISOString(), 48000)
}
