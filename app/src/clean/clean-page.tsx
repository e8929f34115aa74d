import Box from '@mui/material/Box'
import { useEffect } from 'react'
import { Halves } from '../controls/halves'
import { Intro } from '../controls/intro'
import { NoTracks } from '../controls/no-tracks'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { leastSheetHeight } from '../sheet/heights'
import { PictureOrReading } from '../sheet/reading/picture-or-reading'
import type { SheetScale } from '../sheet/sheet-scale'
import { Step } from '../shell/step'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, openSession, useRouting } from '../store/selectors'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { CandidatesPane } from './candidates-pane'
import { cleanActions, selectClean } from './clean-slice'
import { HuntLayer } from './hunt-layer'
import { HuntTools } from './hunt-tools'
import { Spectrogram } from './spectrogram'
import { useHunt } from './use-hunt'

/** Follows the boost, and nothing around it does. */
function Hunting({ scale }: { scale: SheetScale }) {
  return <HuntLayer scale={scale} hunt={useHunt()} />
}

/** Take out what is not the source: one track at a time, by eye, ear and hand. */
export function Component() {
  const session = useRouting()
  const dispatch = useAppDispatch()
  const node = useAppSelector(chosenNode)
  const { hunting, spectrogram } = useAppSelector(selectClean)
  // Work here is of the first stage, on a track.
  useEffect(() => {
    const { tracks } = openSession(store.getState())
    if (store.getState().interface.stage !== 'clean') {
      dispatch(interfaceActions.stageChosen('clean'))
    }
    const chosen = chosenNode(store.getState())
    if (tracks.length > 0 && !tracks.some((t) => t.id === chosen)) {
      dispatch(interfaceActions.nodeChosen(tracks[0].id))
    }
    return () => void dispatch(cleanActions.huntSwitched(false))
  }, [dispatch])
  const isDrawn = spectrogram.side !== 'off'
  const sheet = (
    <EqualiserSheet
      ruler
      readingElsewhere={isDrawn}
      over={(scale) => hunting && <Hunting scale={scale} />}
    />
  )
  return (
    <Step
      intro={
        <Intro step="clean">
          Remove what does not belong: resonances, rumble, hum, harshness. Listen before you cut.
        </Intro>
      }
      evidenceName="Possible problems"
      evidence={<CandidatesPane />}
    >
      {session.tracks.length === 0 ? (
        <NoTracks text="No tracks yet. Import tracks first." />
      ) : (
        <Box
          sx={{
            display: 'grid',
            gridTemplateRows: 'auto minmax(0, 1fr)',
            minHeight: 0,
            minWidth: 0,
          }}
        >
          <HuntTools />
          {isDrawn ? (
            <Halves
              upper={
                <PictureOrReading name="Spectrogram">
                  <Spectrogram node={node} />
                </PictureOrReading>
              }
              lower={sheet}
              dividerName="Divider between spectrogram and sheet"
              upperSize={{ defaultSize: '45%', minSize: '100px' }}
              lowerLeast={leastSheetHeight(true, window.innerHeight)}
            />
          ) : (
            sheet
          )}
        </Box>
      )}
    </Step>
  )
}
