import { createAction } from '@reduxjs/toolkit'
import { applyEdits, type Edit, emptySession, type Session } from '@sober-prism/core/session'
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

export function newSession(name: string): Session {
  return emptySession(crypto.randomUUID(), name, new Date().toISOString(), 48000)
}
