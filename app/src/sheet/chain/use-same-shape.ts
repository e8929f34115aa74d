import { isShapedBy, type ShapeWay } from '@sober-prism/core/match'
import { chainOf } from '@sober-prism/core/session'
import { activeBands, newChainBand } from '@sober-prism/core/treatments'
import { errorSentence } from '@sober-prism/engine'
import { keepEdits, NO_ROOM } from '../../check/keep-edits'
import type { ContextItem } from '../../controls/context-menu'
import { useDesk } from '../../shell/desk-context'
import { interfaceActions } from '../../store/interface-slice'
import { nodeName, openSession } from '../../store/selectors'
import { store, useAppDispatch, useEdit } from '../../store/store'

const WAYS: readonly (readonly [ShapeWay, string])[] = [
  ['cuts', 'by cuts alone'],
  ['boosts', 'by boosts alone'],
]

/** Keeps the shape of an equaliser by cuts or by boosts alone as a variation, to be heard against the one that stands. */
export function useSameShape(node: string, id: string): () => readonly ContextItem[] {
  const desk = useDesk()
  const edit = useEdit()
  const dispatch = useAppDispatch()
  const equaliser = () => {
    const found = chainOf(openSession(store.getState()), node)?.treatments.find((t) => t.id === id)
    return found?.kind === 'equaliser' ? found : null
  }
  const say = (text: string, kind: 'info' | 'warning' = 'warning') =>
    dispatch(interfaceActions.noticeShown(text, kind))
  const keep = async (way: ShapeWay, words: string) => {
    const before = equaliser()
    if (!before) return
    const bands = activeBands(before.params).map((b) => b.band)
    try {
      const answer = await desk.ask.shape({ bands, way })
      // Something else may stand there by now.
      if (equaliser() !== before) return
      if (!answer?.shape) {
        return say(`This shape cannot be had ${words} within half a decibel.`)
      }
      const { bands: made, gainDb, rmsErrorDb } = answer.shape
      const session = openSession(store.getState())
      const kept = keepEdits(session, `${nodeName(session, node)} ${words}`)
      if (!kept) return say(NO_ROOM)
      const params = {
        ...before.params,
        bands: made.map((b) => newChainBand(crypto.randomUUID(), b)),
      }
      edit(kept)
      edit([
        { kind: 'set-treatment', node, treatment: id, change: { params } },
        { kind: 'change-output-gain', node, db: gainDb },
      ])
      say(
        `Kept as a variation: ${words}, within ${rmsErrorDb.toFixed(2)} dB. Compare both in Check.`,
        'info',
      )
    } catch (error) {
      say(errorSentence(error))
    }
  }
  return () => {
    const found = equaliser()
    if (!found) return []
    const bands = activeBands(found.params).map((b) => b.band)
    return WAYS.map(([way, words]) => ({
      name: `Keep a variation ${words}`,
      disabled: bands.length === 0 || isShapedBy(bands, way),
      run: () => void keep(way, words),
    }))
  }
}
