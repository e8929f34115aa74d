import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import Typography from '@mui/material/Typography'
import type { FileStage } from '@sober-prism/engine'
import { memo, useState } from 'react'
import { PlainList, Row } from '../controls/layout'
import type { Incoming } from '../jobs/import-jobs'

const STAGES: Readonly<Record<FileStage, { text: string; from: number; to: number }>> = {
  reading: { text: 'reading', from: 0, to: 0.2 },
  decoding: { text: 'decoding', from: 0.2, to: 0.4 },
  converting: { text: 'converting sample rate', from: 0.4, to: 0.8 },
  storing: { text: 'storing', from: 0.8, to: 1 },
}

interface ImportListProps {
  readonly files: readonly Incoming[]
  readonly busy: boolean
  readonly onCancel: () => void
  readonly onClear: () => void
}

/** How each file fares, and a sentence for each that could not be read; one line when all went well. */
export function ImportList({ files, busy, onCancel, onClear }: ImportListProps) {
  const [unfolded, setUnfolded] = useState(false)
  if (files.length === 0) return null
  const failed = files.filter((f) => f.state.kind === 'failed').length
  const done = files.filter((f) => f.state.kind === 'done').length
  const isWell = done === files.length
  const isOpen = !isWell || unfolded
  return (
    <Box
      component="section"
      sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', p: '8px 10px' }}
      aria-label="Importing files"
    >
      <Row as="header" sx={{ justifyContent: 'space-between' }}>
        <span role="status">
          {isWell
            ? `${done} ${done === 1 ? 'file' : 'files'} imported`
            : `${busy ? 'Importing: ' : ''}${done} done${failed > 0 ? `, ${failed} failed` : ''}${busy ? `, ${files.length - done - failed} to go` : ''}`}
        </span>
        <Row>
          {isWell && (
            <Button variant="text" aria-expanded={isOpen} onClick={() => setUnfolded(!unfolded)}>
              {isOpen ? 'Hide list' : 'Show list'}
            </Button>
          )}
          {busy ? (
            <Button onClick={onCancel}>Cancel remaining</Button>
          ) : (
            <Button onClick={onClear}>Clear list</Button>
          )}
        </Row>
      </Row>
      {isOpen && (
        <PlainList sx={{ gap: 0, maxHeight: 190, overflowY: 'auto' }}>
          {files.map((file) => (
            <IncomingRow key={file.key} file={file} />
          ))}
        </PlainList>
      )}
    </Box>
  )
}

/** Drawn anew only when something happened to its file. */
const IncomingRow = memo(({ file: { name, state } }: { file: Incoming }) => {
  return (
    <Box
      component="li"
      data-state={state.kind}
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(90px, 190px) minmax(0, 1fr) 110px',
        gap: '10px',
        alignItems: 'center',
        py: '3px',
      }}
    >
      <span className="clip" title={name}>
        {name}
      </span>
      {state.kind === 'waiting' && <Note>waiting</Note>}
      {state.kind === 'cancelled' && <Note>cancelled</Note>}
      {state.kind === 'done' && <Note>{state.text}</Note>}
      {state.kind === 'failed' && (
        <Typography color="warning" sx={{ gridColumn: '2 / span 2' }}>
          {state.sentence}
        </Typography>
      )}
      {state.kind === 'busy' && (
        <>
          <Note>{STAGES[state.stage].text}</Note>
          <LinearProgress
            variant="determinate"
            aria-label={`${name}: ${STAGES[state.stage].text}`}
            value={Math.round(100 * shareOf(state.stage, state.share))}
          />
        </>
      )}
    </Box>
  )
})

function Note({ children }: { children: string }) {
  return <Typography color="textSecondary">{children}</Typography>
}

/** How far a file is on its whole way. */
function shareOf(stage: FileStage, share: number): number {
  const { from, to } = STAGES[stage]
  return from + share * (to - from)
}
