import {
  BAND_LIMITS,
  type EqBand,
  type FilterType,
  hasGain,
  newBand,
} from '@sober-prism/core/filters'
import { type Mark, newMark, type StageName } from '@sober-prism/core/treatments'
import { useMemo } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { useAppDispatch, useEdit } from '../store/store'

/** What can be done to the bands of one equaliser. Changes with the same `gesture` are one step of undo. */
export interface BandEditing {
  add(type: FilterType, hz: number, db: number): void
  change(mark: Mark, change: Partial<EqBand>, gesture?: string): void
  switch(mark: Mark): void
  setReason(mark: Mark, reason: string): void
  remove(mark: Mark): void
}

/** @param treatment the equaliser; null adds to the stage's last one, or to a new one. */
export function useBands(node: string, stage: StageName, treatment: string | null): BandEditing {
  const dispatch = useAppDispatch()
  const edit = useEdit()
  return useMemo(() => {
    const at = (mark: Mark) => ({ node, treatment: treatment ?? '', band: mark.id })
    return {
      add(type, hz, db) {
        const band = { ...newBand(type, clampHz(hz)), ...(hasGain(type) && { db: clampDb(db) }) }
        const mark = newMark(crypto.randomUUID(), band)
        const newTreatment = crypto.randomUUID()
        edit([{ kind: 'add-band', node, stage, treatment, newTreatment, mark }])
        dispatch(interfaceActions.bandChosen(mark.id))
      },
      change(mark, change, gesture) {
        edit([{ kind: 'set-band', ...at(mark), change: { band: within(change) } }], { gesture })
      },
      switch(mark) {
        edit([{ kind: 'set-band', ...at(mark), change: { on: !mark.on } }])
      },
      setReason(mark, reason) {
        edit([{ kind: 'set-band', ...at(mark), change: { reason: reason.slice(0, 500) } }], {
          gesture: `reason ${mark.id}`,
        })
      },
      remove(mark) {
        edit([{ kind: 'remove-band', ...at(mark) }])
        dispatch(interfaceActions.bandChosen(null))
        dispatch(interfaceActions.noticeShown('Band removed.', 'info', 'edit'))
      },
    }
  }, [dispatch, edit, node, stage, treatment])
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
