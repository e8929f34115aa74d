import {
  BAND_LIMITS,
  type EqBand,
  type FilterType,
  hasGain,
  type Move,
  newBand,
  type StageName,
} from '@sober-prism/core/session'
import { useMemo } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { type ChainOwner, sessionActions } from '../store/session-slice'
import { useSend } from '../store/store'

/** What can be done to the moves of one chain. Changes with the same `gesture` are one step of undo. */
export interface MoveEditing {
  add(type: FilterType, hz: number, db: number): void
  change(move: Move, change: Partial<EqBand>, gesture?: string): void
  switch(move: Move): void
  setReason(move: Move, reason: string): void
  remove(move: Move): void
}

export function useMoves(owner: ChainOwner, stage: StageName): MoveEditing {
  const send = useSend()
  return useMemo(
    () => ({
      add(type, hz, db) {
        const band = { ...newBand(type, clampHz(hz)), ...(hasGain(type) && { db: clampDb(db) }) }
        const id = crypto.randomUUID()
        const move: Move = { id, on: true, band, reason: '', evidence: null }
        send(sessionActions.moveAdded({ owner, stage, move }))
        send(interfaceActions.moveChosen({ moveId: id }))
      },
      change(move, change, gesture) {
        send(
          sessionActions.bandChanged(
            { owner, moveId: move.id, change: within(change) },
            { gesture },
          ),
        )
      },
      switch(move) {
        send(sessionActions.moveChanged({ owner, moveId: move.id, change: { on: !move.on } }))
      },
      setReason(move, reason) {
        const change = { reason: reason.slice(0, 500) }
        send(
          sessionActions.moveChanged(
            { owner, moveId: move.id, change },
            { gesture: `reason ${move.id}` },
          ),
        )
      },
      remove(move) {
        send(sessionActions.moveRemoved({ owner, moveId: move.id }))
        send(interfaceActions.moveChosen({ moveId: null }))
        send(interfaceActions.noticeShown('Move removed.', 'info', 'edit'))
      },
    }),
    [send, owner, stage],
  )
}

const hold = (value: number, [low, high]: readonly [number, number]) =>
  Math.max(low, Math.min(high, value))
const clampHz = (hz: number) => hold(hz, [20, 20000])
const clampDb = (db: number) => hold(db, BAND_LIMITS.db)

function within(change: Partial<EqBand>): Partial<EqBand> {
  return {
    ...change,
    ...(change.hz !== undefined && { hz: clampHz(change.hz) }),
    ...(change.db !== undefined && { db: clampDb(change.db) }),
    ...(change.q !== undefined && { q: hold(change.q, BAND_LIMITS.q) }),
  }
}
