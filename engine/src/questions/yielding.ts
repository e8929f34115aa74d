import { type Aside, proposeYielding, type YieldProposal } from '@sober-prism/core/findings'
import type { Role, Session } from '@sober-prism/core/session'
import type { Answerer, Question } from './question'
import { clipsOfBoth, type TwoTracks, twoTracks } from './two-tracks'

/** Ways to yield are tried on so much of the passage. */
const MOST_SECONDS = 16
/** What carries the beat and the low end stays in the middle. */
const MIDDLE_ROLES: ReadonlySet<Role> = new Set<Role>(['bass', 'drums'])

interface YieldingInput extends TwoTracks {
  readonly aside: Aside
}

/** How one track may yield to another. */
export const yielding: Question<
  { readonly key: string; readonly yielding: string },
  YieldingInput
> = {
  label: 'Testing ways to make room',
  async prepare({ key, yielding: own }, asking) {
    const input = await twoTracks(asking, [key, own], MOST_SECONDS)
    return input && { ...input, aside: asideFor(asking.session, key, own) }
  },
}

export const answerYielding: Answerer<YieldingInput, YieldProposal> = async (input, onProgress) => {
  const [key, own] = await clipsOfBoth(input)
  return proposeYielding(key, own, input.aside, onProgress)
}

/** The emptier side, where both tracks stand in the middle, and the one that yields is none that belongs there. */
function asideFor(session: Session, key: string, yields: string): Aside {
  const [lead, own] = [key, yields].map((id) => session.tracks.find((t) => t.id === id))
  if (!lead || !own || lead.pan !== 0 || own.pan !== 0) return null
  if (MIDDLE_ROLES.has(own.role) || session.leadIds.includes(own.id)) return null
  const power = (t: Session['tracks'][number]) => (t.mute ? 0 : 10 ** (t.faderDb / 10))
  const lean = session.tracks.reduce((sum, t) => sum + t.pan * power(t), 0)
  return lean > 0 ? 'left' : 'right'
}
