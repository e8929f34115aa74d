import OpenIcon from '@mui/icons-material/ChevronLeft'
import FoldIcon from '@mui/icons-material/ChevronRight'
import Box from '@mui/material/Box'
import type { ReactNode } from 'react'
import { useLocation } from 'react-router'
import { IconAction } from '../controls/icon-action'
import { Row } from '../controls/layout'
import { capital } from '../format'
import { interfaceActions } from '../store/interface-slice'
import { openSession } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { ReferenceRows } from '../tracks/hear-reference'
import { TrackList } from '../tracks/track-list'
import styles from './shell.module.css'

interface StepProps {
  /** Stands above the work: what the step is for. */
  readonly intro: ReactNode
  /** What the evidence is called. */
  readonly evidenceName: string
  readonly evidence: ReactNode
  /** Work that holds the tracks itself, each beside its picture. */
  readonly holdsTracks?: boolean
  readonly children: ReactNode
}

/** The places of every step: tracks at the left, the work, evidence at the right, which folds away. */
export function Step({ intro, evidenceName, evidence, holdsTracks = false, children }: StepProps) {
  const open = useAppSelector((root) => root.interface.evidenceOpen)
  const dispatch = useAppDispatch()
  const name = useAppSelector((root) => openSession(root).name)
  const { pathname } = useLocation()
  const title = capital(pathname.split('/').at(-1) ?? '') || 'Session'
  return (
    <div className={styles.step} data-evidence={open ? 'open' : 'folded'}>
      <Box
        component="main"
        id="work"
        tabIndex={-1}
        sx={{ display: 'flex', flexDirection: 'column', minWidth: 0, minHeight: 0, outline: 0 }}
      >
        <h1 className="visually-hidden">
          {title}: {name}
        </h1>
        {intro}
        <Box
          sx={{
            flex: 1,
            display: 'grid',
            gridTemplate: holdsTracks ? 'auto' : 'minmax(0, 1fr) / var(--side) minmax(0, 1fr)',
            minHeight: 0,
          }}
        >
          {!holdsTracks && (
            <TrackList>
              <ReferenceRows />
            </TrackList>
          )}
          {children}
        </Box>
      </Box>
      <aside className={styles.evidence} id="panel" tabIndex={-1} aria-label={evidenceName}>
        <Row
          sx={{
            flexDirection: open ? 'row' : 'column',
            flexWrap: 'nowrap',
            gap: '6px',
            minHeight: 34,
            p: open ? '0 8px 0 4px' : '4px 0 0',
          }}
        >
          <IconAction
            label={open ? 'Hide panel' : 'Show panel'}
            hint="V"
            icon={open ? <FoldIcon /> : <OpenIcon />}
            onClick={() => dispatch(interfaceActions.evidenceFolded())}
          />
          <Box
            component="span"
            sx={{ fontWeight: 600, writingMode: open ? 'horizontal-tb' : 'vertical-rl' }}
          >
            {evidenceName}
          </Box>
        </Row>
        {open && (
          <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: 0, overflowY: 'auto' }}>
            {evidence}
          </Box>
        )}
      </aside>
    </div>
  )
}
