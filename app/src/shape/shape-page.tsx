import Box from '@mui/material/Box'
import { useEffect } from 'react'
import { Halves } from '../controls/halves'
import { Intro } from '../controls/intro'
import { NoTracks } from '../controls/no-tracks'
import { EqualiserSheet } from '../sheet/equaliser-sheet'
import { leastSheetHeight } from '../sheet/heights'
import { PictureOrReading } from '../sheet/reading/picture-or-reading'
import { Step } from '../shell/step'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, useRouting } from '../store/selectors'
import { store, useAppDispatch, useAppSelector } from '../store/store'
import { MatchPicture } from './match-picture'
import { ShapePane } from './shape-pane'
import { selectShape } from './shape-slice'

/** Tone: towards what one trusts, by few bands or one filter, in broad strokes, and evenly loud. */
export function Component() {
  const session = useRouting()
  const dispatch = useAppDispatch()
  const node = useAppSelector(chosenNode)
  const { comparison } = useAppSelector(selectShape)
  // Work here is of the third stage.
  useEffect(() => {
    if (store.getState().interface.stage !== 'shape') {
      dispatch(interfaceActions.stageChosen('shape'))
    }
  }, [dispatch])
  const isCompared = comparison?.node === node
  const sheet = <EqualiserSheet ruler={!isCompared} readingElsewhere={isCompared} />
  return (
    <Step
      intro={
        <Intro step="shape">
          Match a track, group or mix to a reference, and see what EQ cannot change.
        </Intro>
      }
      evidenceName="Match and tone"
      evidence={<ShapePane />}
    >
      {session.tracks.length === 0 ? (
        <NoTracks text="No tracks yet. Import tracks first." />
      ) : (
        <Box sx={{ display: 'grid', height: '100%', minHeight: 0 }}>
          {isCompared ? (
            <Halves
              upper={
                <PictureOrReading name="Comparison">
                  <MatchPicture />
                </PictureOrReading>
              }
              lower={sheet}
              dividerName="Divider between comparison and sheet"
              upperSize={{ defaultSize: '45%', minSize: '150px' }}
              lowerLeast={leastSheetHeight(false, window.innerHeight)}
            />
          ) : (
            sheet
          )}
        </Box>
      )}
    </Step>
  )
}
