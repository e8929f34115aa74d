import AddIcon from '@mui/icons-material/Add'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { lazy, type ReactNode, Suspense, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { EmptyPlace } from '../controls/empty-place'
import { Row } from '../controls/layout'
import { useOpenSession } from '../shell/desk-context'
import { useSession } from '../store/selectors'

const TestSignalDialog = lazy(() => import('./test-signal-dialog'))

/** Where tracks are dropped or picked; what is here already stands in it. */
export function TrackDrop({ children }: { children: ReactNode }) {
  const session = useSession()
  const { imports } = useOpenSession()
  const [choosing, setChoosing] = useState(false)
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    onDrop: (dropped) => void imports.bring(dropped, 'tracks'),
    noClick: true,
    noKeyboard: true,
  })
  const addSignal = (
    <Button
      data-command="test-signal"
      variant={session.tracks.length === 0 ? 'text' : 'outlined'}
      onClick={() => setChoosing(true)}
    >
      Add test signal…
    </Button>
  )
  return (
    <Box
      component="section"
      {...getRootProps({ role: 'region' })}
      sx={{
        display: 'flex',
        flexDirection: 'column',
        gap: '10px',
        p: '10px 14px',
        overflow: 'auto',
        minHeight: 0,
      }}
      data-drag={isDragActive}
      aria-label="Tracks"
    >
      <input {...getInputProps()} aria-label="Track files" data-testid="track-files" />
      <Row as="header" sx={{ justifyContent: 'space-between' }}>
        <Typography variant="h2">Tracks</Typography>
        <Row as="span">
          {session.tracks.length > 0 && addSignal}
          <Button
            variant="contained"
            data-command="import-tracks"
            startIcon={<AddIcon />}
            onClick={open}
          >
            Add tracks…
          </Button>
        </Row>
      </Row>
      {session.tracks.length === 0 && (
        <EmptyPlace text="Drop tracks here: WAV, AIFF, FLAC, MP3, Ogg or M4A, mono or stereo, or a zip of them. Files with a time stamp are placed by it; the others start together.">
          <Row as="span">
            <Button variant="contained" onClick={open}>
              Choose files…
            </Button>
            {addSignal}
          </Row>
        </EmptyPlace>
      )}
      {children}
      {choosing && (
        <Suspense>
          <TestSignalDialog onClose={() => setChoosing(false)} />
        </Suspense>
      )}
    </Box>
  )
}
