import type { TrackLoudness } from '@sober-prism/core/findings'
import { isKeyed } from '@sober-prism/core/mix'
import type { Session } from '@sober-prism/core/session'
import { errorSentence, isCancel } from '@sober-prism/engine'
import { useEffect, useMemo, useState } from 'react'
import { useAnalysis, useDesk } from '../shell/desk-context'
import { interfaceActions } from '../store/interface-slice'
import { useSettledSession } from '../store/settled'
import { useAppDispatch } from '../store/store'

/** Gated loudness of tracks, and how many of them are still to be measured. */
export interface KnownLoudness {
  readonly loudness: TrackLoudness
  readonly waiting: number
}

/** What is known of a session's tracks; null of silent ones. */
interface Known {
  readonly of: Session | null
  readonly lufs: ReadonlyMap<string, number | null>
}

const NOTHING: Known = { of: null, lufs: new Map() }

/** How loud each track is before its fader: asked for by itself, so that it need not wait for all that is measured. */
export function useLoudness(): KnownLoudness {
  const desk = useDesk()
  const dispatch = useAppDispatch()
  const session = useSettledSession()
  const { tracks, fresh } = useAnalysis('tracks', 'fresh')
  // While measuring goes on its figures come one by one: they are of use when all belong to this state.
  const measured = fresh ? tracks : null
  const [known, setKnown] = useState(NOTHING)
  useEffect(() => {
    if (measured) {
      setKnown({ of: session, lufs: new Map([...measured].map(([id, { lufs }]) => [id, lufs])) })
      return
    }
    let isCurrent = true
    setKnown((before) => ({ of: session, lufs: stillTrue(before, session) }))
    for (const { id } of session.tracks) {
      desk.ask
        .loudness({ track: id })
        .then((lufs) => {
          if (isCurrent) setKnown(({ of, lufs: now }) => ({ of, lufs: new Map(now).set(id, lufs) }))
        })
        .catch((error: unknown) => {
          if (!isCurrent || isCancel(error)) return
          dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
        })
    }
    return () => {
      isCurrent = false
    }
  }, [desk, dispatch, session, measured])
  return useMemo(() => {
    const lufs = stillTrue(known, session)
    const loudness = new Map<string, number>()
    for (const [id, value] of lufs) if (value !== null) loudness.set(id, value)
    return { loudness, waiting: session.tracks.filter((t) => !lufs.has(t.id)).length }
  }, [session, known])
}

/** What is known of an earlier state of the session and holds in this one: of tracks of which nothing but levels behind their chains changed. */
function stillTrue({ of, lufs }: Known, session: Session): Known['lufs'] {
  if (of === session) return lufs
  if (!of || of.passage !== session.passage || of.groups !== session.groups) return NOTHING.lufs
  const before = new Map(of.tracks.map((t) => [t.id, t]))
  const same = session.tracks.flatMap((track) => {
    const was = before.get(track.id)
    const value = lufs.get(track.id)
    const isSame =
      was &&
      was.chain === track.chain &&
      was.trimDb === track.trimDb &&
      was.pan === track.pan &&
      was.output === track.output &&
      was.offsetFrames === track.offsetFrames &&
      !isKeyed(track.chain.treatments)
    return isSame && value !== undefined ? [[track.id, value] as const] : []
  })
  return new Map(same)
}
