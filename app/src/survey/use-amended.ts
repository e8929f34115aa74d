import type { Edit } from '@sober-prism/core/session'
import { errorSentence, isCancel, type SessionFinding } from '@sober-prism/engine'
import { useEffect, useState } from 'react'
import { useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch } from '../store/store'

/** A proposed move with values of one's own, and whether it is to be made at all. */
export interface AmendedMove {
  readonly move: Edit
  readonly made: boolean
}

/** Values stand still for this long before the model is run on them. */
const SETTLE_MS = 200

/** A finding as proposed, or with moves as they were amended and what the model says of those. */
export interface Amending {
  /** What is applied and heard. `predicted` is null while it is computed. */
  readonly finding: SessionFinding
  /** Null while the moves are as proposed. */
  readonly moves: readonly AmendedMove[] | null
  begin(): void
  change(moves: readonly AmendedMove[]): void
  reset(): void
}

export function useAmended(proposed: SessionFinding): Amending {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const [moves, setMoves] = useState<readonly AmendedMove[] | null>(null)
  const [predicted, setPredicted] = useState<SessionFinding['predicted']>(null)
  const isAsProposed = moves === null || isProposed(moves, proposed)
  useEffect(() => {
    setPredicted(null)
    if (moves === null || isProposed(moves, proposed)) return
    let stale = false
    const timer = setTimeout(() => {
      desk.analyser
        .predict(proposed, madeOf(moves))
        .then((result) => {
          if (!stale) setPredicted(result)
        })
        .catch((error) => {
          if (isCancel(error) || stale) return
          dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
        })
    }, SETTLE_MS)
    return () => {
      stale = true
      clearTimeout(timer)
    }
  }, [moves, proposed, desk, dispatch])
  return {
    finding: isAsProposed ? proposed : { ...proposed, moves: madeOf(moves), predicted },
    moves,
    begin: () => setMoves(proposed.moves.map((move) => ({ move, made: true }))),
    change: setMoves,
    reset: () => setMoves(null),
  }
}

function madeOf(moves: readonly AmendedMove[]): Edit[] {
  return moves.filter((m) => m.made).map((m) => m.move)
}

function isProposed(moves: readonly AmendedMove[], { moves: proposed }: SessionFinding): boolean {
  return JSON.stringify(madeOf(moves)) === JSON.stringify(proposed)
}
