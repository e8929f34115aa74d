import type { Session } from '../session'
import { MIX } from '../treatments'
import { fileNames } from './file-names'
import { type Sound, soundOf } from './sound'

/** Something of a session that becomes a file. */
export interface Deliverable {
  readonly what: 'mix' | 'group' | 'track'
  readonly node: string
  /** For people. */
  readonly name: string
  readonly sound: Sound
  /** Name of its file. */
  readonly file: string
}

/** What of a session is wanted. */
export interface DeliverableChoice {
  readonly mix: boolean
  /** Each group behind its chain, fader and pan. */
  readonly groups: boolean
  /** Each track through its own chain, before fader and pan. */
  readonly tracks: boolean
}

/**
 * What is rendered of a session, in the order mix, groups, tracks, and how each file is called: letter and name; the mix by
 * the session's name.
 * @param ending of the files, with its point.
 * @param apart whether files lie among others, not in a folder of their own: the session's name then stands before theirs.
 */
export function deliverables(
  session: Session,
  choice: DeliverableChoice,
  { ending, apart }: { readonly ending: string; readonly apart: boolean },
): Deliverable[] {
  const part =
    (what: 'group' | 'track', tap: 'fader' | 'chain') =>
    ({
      id,
      letter,
      name,
    }: {
      readonly id: string
      readonly letter: string
      readonly name: string
    }) => ({
      what,
      node: id,
      name,
      tap,
      file: `${apart ? `${session.name} ` : ''}${letter} ${name}`,
    })
  const wanted = [
    ...(choice.mix
      ? [{ what: 'mix', node: MIX, name: 'Mix', tap: 'fader', file: session.name } as const]
      : []),
    ...(choice.groups ? session.groups.map(part('group', 'fader')) : []),
    ...(choice.tracks ? session.tracks.map(part('track', 'chain')) : []),
  ]
  const files = fileNames(
    wanted.map((w) => w.file),
    ending,
  )
  return wanted.flatMap(({ tap, ...w }, i) => {
    const sound = soundOf(session, w.node, tap)
    return sound ? [{ ...w, sound, file: files[i] }] : []
  })
}
