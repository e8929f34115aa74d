import type { StageName } from '../treatments'
import { mapChain } from './apply-edits'
import type { Chain, Session } from './schema'

/** What a session is to be heard without; see {@link sessionWithout}. */
export type WithoutTarget =
  | { readonly of: 'treatment'; readonly node: string; readonly treatment: string }
  | { readonly of: 'stage'; readonly node: string; readonly stage: StageName }
  | { readonly of: 'chain'; readonly node: string }
  | { readonly of: 'all' }

/** The session with some treatments passed by: one, those of a stage, a chain with its output, or everything. */
export function sessionWithout(session: Session, target: WithoutTarget): Session {
  const chainWithout = (chain: Chain): Chain => {
    const wholeChain = target.of === 'chain' || target.of === 'all'
    return {
      output: wholeChain ? { gainDb: 0, polarity: 'normal' } : chain.output,
      treatments: chain.treatments.filter((t) => {
        if (target.of === 'treatment') return t.id !== target.treatment
        return target.of === 'stage' ? t.stage !== target.stage : false
      }),
    }
  }
  if (target.of !== 'all') return mapChain(session, target.node, chainWithout)
  const all = <N extends { chain: Chain }>(nodes: N[]) =>
    nodes.map((n) => ({ ...n, chain: chainWithout(n.chain) }))
  return {
    ...session,
    tracks: all(session.tracks),
    groups: all(session.groups),
    mix: { ...session.mix, chain: chainWithout(session.mix.chain) },
  }
}

/** The session with another chain in place of a node's own. */
export function sessionWithChain(session: Session, node: string, chain: Chain): Session {
  return mapChain(session, node, () => chain)
}
