import { isKeyed, type MixPlan, pathPlan, withoutSilent } from '@sober-prism/core/mix'
import {
  groupsAbove,
  type Session,
  type Track,
  type TrimmedChain,
  trimmedChain,
} from '@sober-prism/core/session'

/**
 * The mix in which a track is measured alone: where it listens to others, or flows through groups that do something
 * to it. Null where its own chain makes all of its sound.
 */
export function trackPath(session: Session, plan: MixPlan, track: Track): MixPlan | null {
  const passes = groupsAbove(session, track.id).some(
    (g) => g.pan !== 0 || !isNeutral(trimmedChain(g)),
  )
  if (!passes && !isKeyed(track.chain.treatments)) return null
  return withoutSilent(pathPlan(plan, track.id))
}

function isNeutral({ trimDb, treatments, output }: TrimmedChain): boolean {
  return treatments.every((t) => !t.on) && trimDb + output.gainDb === 0
}
