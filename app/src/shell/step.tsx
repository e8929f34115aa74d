import OpenIcon from '@mui/icons-material/ChevronLeft'
import FoldIcon from '@mui/icons-material/ChevronRight'
import type { ReactNode } from 'react'
import { IconAction } from '../controls/icon-action'
import { interfaceActions } from '../store/interface-slice'
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
  return (
    <main className={styles.step} data-evidence={open ? 'open' : 'folded'}>
      <div className={styles.work}>
        {intro}
        <div className={styles.places} data-tracks={!holdsTracks}>
          {!holdsTracks && (
            <TrackList>
              <ReferenceRows />
            </TrackList>
          )}
          {children}
        </div>
      </div>
      <aside className={styles.evidence} aria-label={evidenceName}>
        <div className={styles.evidenceHead}>
          <IconAction
            label={open ? 'Fold the evidence away' : 'Open the evidence'}
            hint="V"
            icon={open ? <FoldIcon /> : <OpenIcon />}
            onClick={() => dispatch(interfaceActions.evidenceFolded())}
          />
          <span className={styles.evidenceName}>{evidenceName}</span>
        </div>
        {open && <div className={styles.evidenceBody}>{evidence}</div>}
      </aside>
    </main>
  )
}
