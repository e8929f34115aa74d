import type { Ring, SourceReading } from '@sober-prism/core/findings'
import { useMemo } from 'react'
import { useAnalysis } from '../shell/desk-context'
import { useAsked } from '../shell/use-asked'
import { useSettledSession } from '../store/settled'

const NO_RINGS: readonly Ring[] = []

/** What was measured of a node's own sound: of tracks always, of groups and the mix while it is wanted. Rings come last. */
export function useSource(node: string, wanted: boolean): SourceReading | null {
  const { tracks, rings } = useAnalysis('tracks', 'rings')
  const session = useSettledSession()
  const isTrack = session.tracks.some((t) => t.id === node)
  const args = isTrack || !wanted ? null : { node }
  const { answer } = useAsked('source', args, { subject: node, depends: [session] })
  const [reading, known] = [tracks.get(node)?.reading, rings.get(node) ?? NO_RINGS]
  const ofTrack = useMemo(() => reading && { ...reading, rings: known }, [reading, known])
  return isTrack ? (ofTrack ?? null) : answer
}
