import type { MixPlan, NodePlan } from '@sober-prism/core/mix'

/** The nodes of a plan that are not in an earlier one as they are: only they travel to the audio thread. */
export function changedNodes(before: MixPlan | null, now: MixPlan): NodePlan[] {
  const known = new Map((before?.nodes ?? []).map((n) => [n.id, n]))
  return now.nodes.filter((node) => {
    const old = known.get(node.id)
    return !old || !isSame(old, node)
  })
}

function isSame(a: NodePlan, b: NodePlan): boolean {
  const { treatments: ofA, ...restA } = a
  const { treatments: ofB, ...restB } = b
  const keys = Object.keys(restA) as (keyof typeof restA)[]
  return (
    keys.every((key) => restA[key] === restB[key]) &&
    ofA.length === ofB.length &&
    ofA.every((t, i) => {
      const other = ofB[i]
      // Values and designs are never changed in place: the same object is the same value.
      return (
        t.id === other.id &&
        t.params === other.params &&
        t.design === other.design &&
        t.key === other.key
      )
    })
  )
}
