import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { Link } from 'react-router'
import { EmptyPlace } from './empty-place'

/** What stands where a step has nothing to work on yet, and the way to it. */
export function NoTracks({ text }: { text: string }) {
  return (
    <Box sx={{ p: '24px' }}>
      <EmptyPlace text={text}>
        <Button variant="contained" component={Link} to="../gather" relative="path">
          Import tracks
        </Button>
      </EmptyPlace>
    </Box>
  )
}
