import { MIX, type Treatment } from '../treatments'

interface Chained {
  readonly treatments: readonly Pick<Treatment, 'key'>[]
}
interface RoutedNode {
  readonly id: string
  readonly name: string
  readonly output: string
  readonly chain: Chained
}
/** What of a session decides where sound flows. */
export interface Routing {
  readonly tracks: readonly RoutedNode[]
  readonly groups: readonly RoutedNode[]
  readonly mix: { readonly chain: Chained }
  readonly leadIds: readonly string[]
}

interface Problem {
  readonly path: readonly (string | number)[]
  readonly message: string
}

/** What is wrong with where sound flows: ids twice, ways into nothing, leads that are none, rings. */
export function checkRouting(session: Routing): Problem[] {
  const problems: Problem[] = []
  const ids = new Set<string>()
  const groups = new Set(session.groups.map((g) => g.id))
  const all = [
    ...session.tracks.map((node, i) => ({ node, path: ['tracks', i] as const })),
    ...session.groups.map((node, i) => ({ node, path: ['groups', i] as const })),
  ]
  for (const { node, path } of all) {
    if (ids.has(node.id)) {
      problems.push({ path: [...path, 'id'], message: 'two tracks or groups have the same id' })
    }
    ids.add(node.id)
    if (node.output !== MIX && !groups.has(node.output)) {
      problems.push({
        path: [...path, 'output'],
        message: 'it is routed to a group that does not exist',
      })
    }
  }
  session.leadIds.forEach((leadId, index) => {
    if (session.tracks.some((t) => t.id === leadId)) return
    problems.push({ path: ['leadIds', index], message: 'no track has this id' })
  })
  for (const { chain, path } of [
    ...all.map(({ node, path: at }) => ({ chain: node.chain, path: at })),
    { chain: session.mix.chain, path: ['mix'] as const },
  ]) {
    chain.treatments.forEach(({ key }, index) => {
      if (!key || ids.has(key.node)) return
      const message = 'its key is a track or group that does not exist'
      problems.push({ path: [...path, 'chain', 'treatments', index, 'key'], message })
    })
  }
  if (problems.length > 0) return problems
  const cycle = findCycle(session)
  return cycle ? [{ path: ['groups'], message: cycleSentence(cycle) }] : []
}

/**
 * A cycle in which sound would wait for itself: through groups, or through what treatments listen to.
 * @returns the names around it, the first again at the end; null when there is none.
 */
export function findCycle(session: Routing): string[] | null {
  const nodes = new Map<string, { name: string; feeds: string[] }>()
  for (const { id, name, output } of [...session.tracks, ...session.groups]) {
    nodes.set(id, { name, feeds: output === MIX ? [] : [output] })
  }
  for (const { id, chain } of [...session.tracks, ...session.groups]) {
    for (const { key } of chain.treatments) if (key) nodes.get(key.node)?.feeds.push(id)
  }
  const done = new Set<string>()
  const visit = (id: string, way: readonly string[]): string[] | null => {
    if (way.includes(id)) return [...way.slice(way.indexOf(id)), id]
    const node = nodes.get(id)
    if (!node || done.has(id)) return null
    for (const next of node.feeds) {
      const cycle = visit(next, [...way, id])
      if (cycle) return cycle
    }
    done.add(id)
    return null
  }
  for (const id of nodes.keys()) {
    const cycle = visit(id, [])
    if (cycle) return cycle.map((i) => nodes.get(i)?.name ?? i)
  }
  return null
}

/** Says what a cycle is, by the names around it. */
export function cycleSentence(names: readonly string[]): string {
  return names.length === 2
    ? `${names[0]} would feed itself`
    : `${names.join(' → ')} would form a feedback loop`
}
