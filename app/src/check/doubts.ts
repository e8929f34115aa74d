import { chainOf, type Edit, type Session } from '@sober-prism/core/session'

/** What is doubted, kept with the session until it is decided with rested ears. */
export interface Doubt {
  readonly key: string
  readonly node: string
  readonly treatment: string
  readonly keptAt: Date
}

const MARK = 'doubt'
/** When this page was opened. */
const openedAt = performance.timeOrigin
/** Ears have rested after so long. */
const REST_MS = 4 * 3600 * 1000

/** Keeps a treatment to be listened to another day. */
export function doubtEdit(node: string, treatment: string, now = new Date()): Edit {
  const key = `${MARK} ${node} ${treatment}`
  return { kind: 'dismiss', dismissed: { key, state: 'kept', reason: now.toISOString() } }
}

/** It is decided. */
export const decided = ({ key }: Doubt): Edit => ({
  kind: 'dismiss',
  dismissed: { key, state: 'decided', reason: '' },
})

/** What is doubted in a session and still there; `rested` are those that were kept long enough before it was opened. */
export function doubtsOf(
  session: Session,
  opened: number = openedAt,
): { readonly rested: readonly Doubt[]; readonly later: readonly Doubt[] } {
  const all = session.dismissed.flatMap(({ key, state, reason }): Doubt[] => {
    const [mark, node, treatment] = key.split(' ')
    if (mark !== MARK || state !== 'kept' || !node || !treatment) return []
    const isThere = chainOf(session, node)?.treatments.some((t) => t.id === treatment)
    const keptAt = new Date(reason)
    return isThere && Number.isFinite(keptAt.getTime()) ? [{ key, node, treatment, keptAt }] : []
  })
  const isRested = ({ keptAt }: Doubt) => opened - keptAt.getTime() >= REST_MS
  return {
    rested: all.filter(isRested),
    later: all.filter((d) => !isRested(d)),
  }
}
