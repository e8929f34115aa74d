import {
  BAND_LIMITS,
  type EqBand,
  type FilterType,
  hasGain,
  newBand,
} from '@sober-prism/core/filters'
import type { Edit } from '@sober-prism/core/session'
import { type ChainBand, newChainBand, type StageName } from '@sober-prism/core/treatments'
import { useMemo } from 'react'
import { interfaceActions } from '../../store/interface-slice'
import { chosenBands } from '../../store/selectors'
import { store, useAppDispatch, useEdit } from '../../store/store'

/**
 * What can be done to the bands of one equaliser. Changes with the same `gesture` are one step of undo. What is done to
 * a band that is chosen with others is done to all of them: frequency and width in proportion, gain by the difference.
 */
export interface BandEditing {
  add(type: FilterType, hz: number, db: number): void
  change(chainBand: ChainBand, change: Partial<EqBand>, gesture?: string): void
  switch(chainBand: ChainBand): void
  setReason(chainBand: ChainBand, reason: string): void
  remove(chainBand: ChainBand): void
}

/** @param treatment the equaliser; null adds to the stage's last one, or to a new one. */
export function useBands(node: string, stage: StageName, treatment: string | null): BandEditing {
  const dispatch = useAppDispatch()
  const edit = useEdit()
  return useMemo(() => {
    const at = (chainBand: ChainBand) => ({ node, treatment: treatment ?? '', band: chainBand.id })
    return {
      add(type, hz, db) {
        const band = { ...newBand(type, clampHz(hz)), ...(hasGain(type) && { db: clampDb(db) }) }
        const chainBand = newChainBand(crypto.randomUUID(), band)
        const newTreatment = crypto.randomUUID()
        edit([{ kind: 'add-band', node, stage, treatment, newTreatment, chainBand }])
        dispatch(interfaceActions.bandChosen(chainBand.id))
      },
      change(chainBand, change, gesture) {
        const edits = together(node, chainBand).map(
          (each): Edit => ({
            kind: 'set-band',
            ...at(each),
            change: { band: within(each === chainBand ? change : alike(each, chainBand, change)) },
          }),
        )
        edit(edits, { gesture })
      },
      switch(chainBand) {
        const on = !chainBand.on
        edit(
          together(node, chainBand).map((each) => ({
            kind: 'set-band',
            ...at(each),
            change: { on },
          })),
        )
      },
      setReason(chainBand, reason) {
        edit([{ kind: 'set-band', ...at(chainBand), change: { reason: reason.slice(0, 500) } }], {
          gesture: `reason ${chainBand.id}`,
        })
      },
      remove(chainBand) {
        const all = together(node, chainBand)
        edit(all.map((each) => ({ kind: 'remove-band', ...at(each) })))
        dispatch(interfaceActions.bandChosen(null))
        const said = all.length === 1 ? 'Band removed.' : `${all.length} bands removed.`
        dispatch(interfaceActions.noticeShown(said, 'info', 'edit'))
      },
    }
  }, [dispatch, edit, node, stage, treatment])
}

/** A band and those that are chosen with it; itself alone where it is not chosen. */
function together(node: string, chainBand: ChainBand): readonly ChainBand[] {
  const chosen = chosenBands(store.getState(), node)
  return chosen.some((m) => m.id === chainBand.id)
    ? chosen.map((m) => (m.id === chainBand.id ? chainBand : m))
    : [chainBand]
}

/** What another band is changed to when one is. */
function alike(other: ChainBand, chainBand: ChainBand, change: Partial<EqBand>): Partial<EqBand> {
  const [its, own] = [other.band, chainBand.band]
  return {
    ...change,
    ...(change.hz !== undefined && { hz: round((its.hz * change.hz) / own.hz, 5) }),
    ...(change.q !== undefined && { q: round((its.q * change.q) / own.q, 5) }),
    ...(change.db !== undefined && { db: Math.round(100 * (its.db + change.db - own.db)) / 100 }),
  }
}

const round = (value: number, digits: number) => Number(value.toPrecision(digits))
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
