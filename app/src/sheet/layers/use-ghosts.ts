import { MIX } from '@sober-prism/core/treatments'
import { useMemo } from 'react'
import { useAnalysis } from '../../shell/desk-context'
import { nodeOf, useRouting } from '../../store/selectors'
import { useAppSelector } from '../../store/store'
import type { Ghost } from '../draw-sheet'
import { selectSheet } from '../sheet-slice'

/** The spectra that stand behind a node's: those that were chosen, else the first lead's. */
export function useGhosts(node: string): readonly Ghost[] {
  const session = useRouting()
  const { tracks, groups, references, mix } = useAnalysis('tracks', 'groups', 'references', 'mix')
  const { ghosts } = useAppSelector(selectSheet)
  return useMemo(() => {
    const lead = session.leadIds.find((id) => id !== node)
    const wanted = ghosts.length > 0 ? ghosts : lead && node !== MIX ? [lead] : []
    return wanted.flatMap((id): Ghost[] => {
      if (id === node) return []
      const routed = nodeOf(session, id)
      const own = (tracks.get(id) ?? groups.get(id))?.levels
      if (routed && own) {
        return [{ name: routed.letter, levels: Float64Array.from(own, (v) => v + routed.faderDb) }]
      }
      const reference = session.references.find((r) => r.id === id)
      const measured = references.get(id)
      if (!reference || !measured) return []
      // References stand at the loudness of the mix.
      const shiftDb = (mix?.lufs ?? 0) - (measured.lufs ?? mix?.lufs ?? 0)
      return [
        { name: reference.name, levels: Float64Array.from(measured.levels, (v) => v + shiftDb) },
      ]
    })
  }, [session, node, ghosts, tracks, groups, references, mix])
}
