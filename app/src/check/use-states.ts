import {
  AS_IT_CAME,
  activeMoves,
  greatestBoostDb,
  type Session,
  sessionInVariation,
  workedIn,
} from '@sober-prism/core/session'
import { errorSentence, isCancel, type StateFigures } from '@sober-prism/engine'
import { useEffect, useMemo, useState } from 'react'
import { useDesk } from '../shell/desk-context'
import { useSettledSession } from '../store/settled'

/** A state of the session that can be heard and measured beside the others. */
export interface ComparedState {
  readonly id: string
  /** By which it is called: a figure, or a minus for the session as it came. */
  readonly sign: string
  readonly name: string
  readonly isWorkedIn: boolean
  readonly session: Session
}

/** How the state is called in which no variation is kept yet. */
export const WHAT_STANDS = 'what-stands'

/** The states of a session: as it came, and each variation; what stands where none was kept. */
function statesOf(session: Session): readonly ComparedState[] {
  const came = {
    id: AS_IT_CAME,
    sign: '−',
    name: 'As it came',
    isWorkedIn: false,
    session: sessionInVariation(session, AS_IT_CAME),
  }
  const worked = workedIn(session)
  if (!worked) {
    const stands = { id: WHAT_STANDS, sign: '', name: 'What stands', isWorkedIn: true, session }
    return [came, stands]
  }
  return [
    came,
    ...session.variations.list.map((v) => ({
      id: v.id,
      sign: `${v.number}`,
      name: v.name,
      isWorkedIn: v.id === worked.id,
      session: sessionInVariation(session, v.id),
    })),
  ]
}

interface Measured {
  readonly figures: ReadonlyMap<string, StateFigures>
  /** How many are still to be measured. */
  readonly missing: number
  readonly trouble: string | null
}

/** What is measured of each state, one after the other; those of an earlier session stay until there are new ones. */
export function useStates(): Measured & { readonly states: readonly ComparedState[] } {
  const desk = useDesk()
  const session = useSettledSession()
  const states = useMemo(() => statesOf(session), [session])
  const [figures, setFigures] = useState<ReadonlyMap<string, StateFigures>>(new Map())
  const [missing, setMissing] = useState(states.length)
  const [trouble, setTrouble] = useState<string | null>(null)
  useEffect(() => {
    const controller = new AbortController()
    const { signal } = controller
    const measure = async () => {
      setTrouble(null)
      setMissing(states.length)
      const known = new Map<string, StateFigures>()
      // What stands was measured already: it is there at once.
      const order = [...states].sort((a, b) => Number(b.isWorkedIn) - Number(a.isWorkedIn))
      for (const { id, session: state } of order) {
        if (state.tracks.length > 0) known.set(id, await desk.analyser.figuresOf(state, signal))
        if (signal.aborted) return
        setFigures((before) => new Map([...before, ...known]))
        setMissing((left) => left - 1)
      }
    }
    measure().catch((error) => {
      if (!signal.aborted && !isCancel(error)) setTrouble(errorSentence(error))
    })
    return () => controller.abort(new DOMException('Another state is measured.', 'AbortError'))
  }, [desk, states])
  return { states, figures, missing, trouble }
}

/** Treatments and bands that are on, anywhere. */
export function movesOf({ tracks, groups, mix }: Session): number {
  return [...tracks, ...groups, mix].reduce((sum, { chain }) => sum + activeMoves(chain), 0)
}

export { greatestBoostDb }

/** What is heard of the leads together, or of all tracks where none leads: parts of their loudness. */
export function leadsHeard(
  { heard }: StateFigures,
  { leadIds, tracks }: Session,
): { readonly hidden: number; readonly crowded: number; readonly clear: number } | null {
  const ids = leadIds.length > 0 ? leadIds : tracks.map((t) => t.id)
  const of = ids.flatMap((id) => heard.get(id) ?? [])
  const alone = of.reduce((sum, h) => sum + h.aloneSone, 0)
  if (alone === 0) return null
  const part = (key: 'hidden' | 'crowded' | 'clear') =>
    of.reduce((sum, h) => sum + h.aloneSone * h[key], 0) / alone
  return { hidden: part('hidden'), crowded: part('crowded'), clear: part('clear') }
}

/** Bands that lie further under the loudest than this say nothing of the tone, in dB. */
const FLOOR_DB = 50

/**
 * Level of one mix over another in each sixth of an octave, in dB, as loud as each other; null where both are all but
 * silent. Null where one of them is silent.
 */
export function toneBetween(
  first: StateFigures['mix'],
  second: StateFigures['mix'],
): readonly (number | null)[] | null {
  if (first.lufs === null || second.lufs === null) return null
  const shift = first.lufs - second.lufs
  const tops = [first, second].map((m) => m.levels.reduce((most, v) => Math.max(most, v), -400))
  return Array.from(second.levels, (v, i) => {
    const isHeard = v > tops[1] - FLOOR_DB || first.levels[i] > tops[0] - FLOOR_DB
    return isHeard ? v + shift - first.levels[i] : null
  })
}

/** Root of the mean square of a difference in tone, in dB. */
export function rmsOf(difference: readonly (number | null)[]): number {
  const known = difference.filter((v) => v !== null)
  if (known.length === 0) return 0
  return Math.sqrt(known.reduce((sum, v) => sum + v * v, 0) / known.length)
}
