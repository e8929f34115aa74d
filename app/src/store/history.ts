import type { Reducer, UnknownAction } from '@reduxjs/toolkit'
import { DocumentError, type Session, workedIn } from '@sober-prism/core/session'

interface Steps {
  readonly past: readonly Session[]
  readonly future: readonly Session[]
}

/** The session that is open, with what undo and redo go back and forth to. */
export interface History extends Steps {
  readonly present: Session | null
  /** Steps of variations that are not worked in, by their ids: undo stays within one. */
  readonly aside: Readonly<Record<string, Steps>>
  /** The gesture that made the last change: a drag is one step, however many changes it makes. */
  readonly gesture: string | null
  /** Why the last change was refused, and the how manieth refusal it was. */
  readonly refused: { readonly sentence: string; readonly count: number } | null
}

/** How a change stands in the history. */
export interface EditMeta {
  /** Changes of one gesture count as one step. */
  readonly gesture?: string
  /** Changes to listening only (solo, lift) are not steps. */
  readonly listening?: boolean
}

const MOST_STEPS = 200
const EMPTY: History = {
  present: null,
  past: [],
  future: [],
  aside: {},
  gesture: null,
  refused: null,
}

export const undo = () => ({ type: 'history/undo' }) as const
export const redo = () => ({ type: 'history/redo' }) as const

/** Steps that were kept when the session was open last. */
export const historyRestored = (steps: Pick<History, 'past' | 'future'>) =>
  ({ type: 'history/restored', payload: steps }) as const

/** Adds undo and redo to a reducer of the session document. */
export function withHistory(reducer: Reducer<Session | null>, openType: string): Reducer<History> {
  return (history = EMPTY, action) => {
    switch (action.type) {
      case 'history/undo':
        return step(history, history.past, history.future, 'back')
      case 'history/redo':
        return step(history, history.future, history.past, 'forth')
      case 'history/restored':
        return restore(history, (action as ReturnType<typeof historyRestored>).payload)
    }
    const present = tried(reducer, history.present, action)
    if (typeof present === 'string') {
      const count = (history.refused?.count ?? 0) + 1
      return { ...history, refused: { sentence: present, count } }
    }
    if (present === history.present) return history
    if (action.type === openType) return { ...EMPTY, present }
    return record(history, present, (action as UnknownAction & { meta?: EditMeta }).meta ?? {})
  }
}

/** What a reducer makes of an action, or why it refuses it. */
function tried(
  reducer: Reducer<Session | null>,
  session: Session | null,
  action: UnknownAction,
): Session | null | string {
  try {
    return reducer(session, action)
  } catch (error) {
    if (error instanceof DocumentError) return error.message
    throw error
  }
}

function record(history: History, present: Session | null, meta: EditMeta): History {
  if (meta.listening || !history.present) return { ...history, present }
  const from = workedIn(history.present)?.id
  const isOver = from !== undefined && present !== null && from !== workedIn(present)?.id
  if (isOver) return goneOver(history, present, from)
  const gesture = meta.gesture ?? null
  if (gesture !== null && gesture === history.gesture) return { ...history, present, future: [] }
  const past = [...history.past, history.present].slice(-MOST_STEPS)
  return { ...history, present, past, future: [], gesture }
}

/** Another variation is worked in, with steps of its own. */
function goneOver(history: History, present: Session, from: string): History {
  const { past, future } = history
  const own = history.aside[workedIn(present)?.id ?? '']
  // Steps of before a recording came in would take it away again.
  const idsOf = ({ tracks, references }: Session) =>
    [...tracks, ...references].map((t) => t.id).join()
  const asNow = (steps: readonly Session[] = []) =>
    steps.every((s) => idsOf(s) === idsOf(present))
      ? steps.map((s) => ({ ...s, variations: present.variations }))
      : []
  return {
    ...history,
    present,
    past: asNow(own?.past),
    future: asNow(own?.future),
    aside: { ...history.aside, [from]: { past, future } },
    gesture: null,
  }
}

/** What was kept comes before what was done meanwhile, which ends redo. */
function restore(history: History, { past, future }: Pick<History, 'past' | 'future'>): History {
  const isUntouched = history.past.length === 0 && history.future.length === 0
  return {
    ...history,
    past: [...past, ...history.past].slice(-MOST_STEPS),
    future: isUntouched ? future : history.future,
  }
}

function step(
  history: History,
  from: readonly Session[],
  to: readonly Session[],
  direction: 'back' | 'forth',
): History {
  const target = from.at(-1)
  if (!target || !history.present) return history
  const left = from.slice(0, -1)
  const gained = [...to, history.present]
  const present = keepListening(target, history.present)
  return direction === 'back'
    ? { ...history, present, past: left, future: gained, gesture: null }
    : { ...history, present, past: gained, future: left, gesture: null }
}

/** Undo changes the work, not what one listens to: solo and lift stay as they are, and answers that were given. */
function keepListening(target: Session, now: Session): Session {
  const listening = new Map(
    [...now.tracks, ...now.groups].map((n) => [n.id, { solo: n.solo, lift: n.lift }]),
  )
  const kept = <N extends { id: string }>(nodes: N[]): N[] =>
    nodes.map((n) => {
      const now = listening.get(n.id)
      const before = n as N & Partial<typeof now>
      // Unchanged, it is the same object: steps share what they have in common.
      return !now || (before.solo === now.solo && before.lift === now.lift) ? n : { ...n, ...now }
    })
  const { blindTests } = now
  return { ...target, blindTests, tracks: kept(target.tracks), groups: kept(target.groups) }
}
