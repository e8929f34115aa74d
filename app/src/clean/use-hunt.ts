import { newBand } from '@sober-prism/core/filters'
import { huntBoost, type Ring } from '@sober-prism/core/findings'
import { newChainBand } from '@sober-prism/core/treatments'
import { errorSentence, type HuntPlace } from '@sober-prism/engine'
import { useCallback, useEffect, useRef, useState } from 'react'
import { formatHz } from '../format'
import { plumb } from '../plot/plumb'
import { useDesk, useSignal } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, openSession } from '../store/selectors'
import { store, useAppDispatch, useAppSelector, useEdit } from '../store/store'
import { cleanActions, selectClean } from './clean-slice'
import { useSource } from './use-source'

/** What a hunt can be told to do. */
export interface Hunt {
  /** Where the boost stands; null while one does not hunt. */
  readonly at: HuntPlace | null
  move(hz: number): void
  /** Measured rings that it passed, each left as a pencil mark; the strongest first. */
  readonly passed: readonly Ring[]
  /** Turns the boost into a cut just where it stands, or on a resonance that was measured, and ends the hunt. */
  cut(ring?: Ring): void
}

/** So many of the rings it passes leave a mark. */
const MOST_PASSED = 6
const NO_RINGS: readonly Ring[] = []

const START_HZ = 2500
const [LOWEST_HZ, HIGHEST_HZ] = [60, 14_000]
/** The sweep goes over this range in this time. */
const SWEEP_HZ = [9000, 80] as const
const SWEEP_SECONDS = 36
const SWEEP_STEP_MS = 60

/** Where the boost stood last: the sheet may be laid out anew while one hunts. */
const last = { hz: START_HZ }

/** The hunt on the chosen track, group or mix: the boost is heard while `hunting` is on, and only then. */
export function useHunt(): Hunt {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const edit = useEdit()
  const node = useAppSelector(chosenNode)
  const { hunting, sweeping, q, cutDb } = useAppSelector(selectClean)
  const reading = useSource(node, hunting)
  const bands = reading?.bands ?? null
  const rings = reading?.rings ?? NO_RINGS
  const [passed, setPassed] = useState<readonly Ring[]>(NO_RINGS)
  const heard = useSignal(desk.heard)
  const at = heard?.rendition.kind === 'hunt' ? heard.rendition.at : null
  const place = useRef(last.hz)
  const frame = useRef(0)

  const hunt = useCallback(() => {
    if (!bands) return
    const { sampleRateHz } = openSession(store.getState())
    const hz = place.current
    desk.hunt({ node, hz, q, db: huntBoost(bands, hz, q, sampleRateHz) })
    const under = rings.filter((ring) => isOn(hz, ring, q))
    setPassed((before) => {
      const added = under.filter((ring) => !before.includes(ring))
      if (added.length === 0) return before
      return [...before, ...added].sort((a, b) => b.db - a.db).slice(0, MOST_PASSED)
    })
  }, [desk, node, q, bands, rings])
  // biome-ignore lint/correctness/useExhaustiveDependencies: another node or another hunt begins without marks.
  useEffect(() => setPassed(NO_RINGS), [node, hunting])

  const move = useCallback(
    (hz: number) => {
      place.current = Math.max(LOWEST_HZ, Math.min(HIGHEST_HZ, hz))
      plumb.set(place.current)
      last.hz = place.current
      // At most one change per picture.
      frame.current ||= requestAnimationFrame(() => {
        frame.current = 0
        hunt()
      })
    },
    [hunt],
  )

  // On, off, another track, another width.
  const begunOn = useRef<string | null>(null)
  useEffect(() => {
    if (!hunting) begunOn.current = null
    if (!hunting || !bands) return
    if (begunOn.current !== node) {
      begunOn.current = node
      // What is likeliest to ring is heard first.
      const [likeliest] = rings
      if (likeliest) place.current = likeliest.hz
      last.hz = place.current
    }
    hunt()
    if (!desk.player.playing) {
      desk.player
        .play()
        .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
    }
  }, [hunting, bands, rings, node, hunt, desk, dispatch])
  useEffect(() => {
    if (!hunting) return
    return () => {
      cancelAnimationFrame(frame.current)
      frame.current = 0
      if (desk.heard.value?.rendition.kind === 'hunt') desk.stopHearing()
    }
  }, [hunting, desk])
  // What is heard was put back from elsewhere.
  useEffect(
    () =>
      desk.heard.watch(() => {
        const { hunting: on } = selectClean(store.getState())
        if (on && desk.heard.value?.rendition.kind !== 'hunt') {
          dispatch(cleanActions.huntSwitched(false))
        }
      }),
    [desk, dispatch],
  )
  useEffect(() => {
    if (!sweeping) return
    const [from, to] = SWEEP_HZ
    const ratio = (to / from) ** (SWEEP_STEP_MS / 1000 / SWEEP_SECONDS)
    move(from)
    const timer = setInterval(() => {
      if (place.current * ratio < to) dispatch(cleanActions.sweepSwitched(false))
      else move(place.current * ratio)
    }, SWEEP_STEP_MS)
    return () => clearInterval(timer)
  }, [sweeping, move, dispatch])

  const cut = useCallback(
    (chosen?: Ring) => {
      // Nothing is heard yet that could be cut.
      if (!bands) return
      // The ear is obeyed: where it stands, as narrow and as deep as was set.
      const at = chosen ?? { hz: place.current, q }
      const hz = Number(at.hz.toPrecision(5))
      const band = { ...newBand('bell', hz), q: Number(at.q.toFixed(1)), db: cutDb }
      const reason = chosen
        ? `Resonance at ${formatHz(hz)}, measured ${chosen.db.toFixed(1)} dB high`
        : `Resonance at ${formatHz(hz)}, found by ear`
      const chainBand = { ...newChainBand(crypto.randomUUID(), band), reason }
      dispatch(cleanActions.huntSwitched(false))
      const newTreatment = crypto.randomUUID()
      edit([{ kind: 'add-band', node, stage: 'clean', treatment: null, newTreatment, chainBand }])
      const ring = chosen ? null : (passed.find((r) => isOn(place.current, r, q)) ?? null)
      dispatch(cleanActions.cutMade({ node, band: chainBand.id, hz, ring }))
      dispatch(interfaceActions.stageChosen('clean'))
      dispatch(interfaceActions.bandChosen(chainBand.id))
    },
    [dispatch, edit, node, q, cutDb, passed, bands],
  )

  return { at: hunting ? at : null, move, passed, cut }
}

/** Whether a boost stands on a ring: nearer than half of the boost's width. */
function isOn(hz: number, ring: Ring, q: number): boolean {
  return Math.abs(Math.log2(hz / ring.hz)) < 0.72 / q
}
