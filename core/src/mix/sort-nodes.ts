import type { NodePlan } from './plan'

/**
 * Nodes in the order in which sound passes them: whatever flows into a node, or is listened to in it, stands
 * before it. A plan without cycles, as the document guarantees; nodes of a cycle are left out.
 */
export function sortNodes(nodes: readonly NodePlan[]): NodePlan[] {
  const feeds = new Map<string, string[]>(nodes.map((n) => [n.id, []]))
  for (const { id, output, treatments } of nodes) {
    if (output !== null) feeds.get(output)?.push(id)
    for (const { key } of treatments) if (key) feeds.get(id)?.push(key.node)
  }
  const byId = new Map(nodes.map((n) => [n.id, n]))
  const state = new Map<string, 'open' | 'done'>()
  const out: NodePlan[] = []
  const visit = (id: string): void => {
    const node = byId.get(id)
    if (!node || state.has(id)) return
    state.set(id, 'open')
    for (const feeder of feeds.get(id) ?? []) visit(feeder)
    state.set(id, 'done')
    out.push(node)
  }
  const last = nodes.filter((n) => n.output === null)
  for (const { id } of last) visit(id)
  return out
}
