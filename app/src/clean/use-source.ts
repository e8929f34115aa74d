import type { SourceReading } from '@sober-prism/core/findings'
import { useAnalysis } from '../shell/desk-context'
import { useAsked } from '../shell/use-asked'
import { useSettledSession } from '../store/settled'

/** What was measured of a node's own sound: of tracks always, of groups and the mix while it is wanted. */
export function useSource(node: string, wanted: boolean): SourceReading | null {
  const { tracks } = useAnalysis('tracks')
  const session = useSettledSession()
  const isTrack = session.tracks.some((t) => t.id === node)
  const args = isTrack || !wanted ? null : { node }
  const { answer } = useAsked('source', args, { subject: node, depends: [session] })
  return isTrack ? (tracks.get(node)?.reading ?? null) : answer
}
