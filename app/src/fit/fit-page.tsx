import { useEffect } from 'react'
import { Intro } from '../controls/intro'
import { NoTracks } from '../controls/no-tracks'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { Step } from '../shell/step'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, openSession, useRouting } from '../store/selectors'
import { store, useAppDispatch } from '../store/store'
import { MakeRoomPane } from './make-room-pane'

/** Make room between tracks: what yields to what, by how much, and when. */
export function Component() {
  const session = useRouting()
  const dispatch = useAppDispatch()
  // Work here is of the second stage, on a track that yields.
  useEffect(() => {
    const { tracks, leadIds } = openSession(store.getState())
    if (store.getState().interface.stage !== 'fit') dispatch(interfaceActions.stageChosen('fit'))
    const chosen = chosenNode(store.getState())
    const first = tracks.find((t) => !leadIds.includes(t.id)) ?? tracks[0]
    if (first && !tracks.some((t) => t.id === chosen)) {
      dispatch(interfaceActions.nodeChosen(first.id))
    }
  }, [dispatch])
  return (
    <Step
      intro={
        <Intro step="fit">
          Make room for masked parts with cuts, dynamic EQ or ducking. Each option is tested first.
        </Intro>
      }
      evidenceName="Make room"
      evidence={<MakeRoomPane />}
    >
      {session.tracks.length < 2 ? (
        <NoTracks text="Import at least two tracks to fit them together." />
      ) : (
        <EqualiserSheet ruler />
      )}
    </Step>
  )
}
