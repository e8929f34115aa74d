import Tooltip from '@mui/material/Tooltip'
import type { ReactNode } from 'react'
import styles from './controls.module.css'
import { meaningOf, type Word } from './words'

/** A word of ours where it first stands on a page: its meaning is told by a tooltip, and to screen readers. */
export function Term({ word, children }: { word: Word; children: ReactNode }) {
  return (
    <Tooltip describeChild title={meaningOf(word)}>
      <span className={styles.term}>{children}</span>
    </Tooltip>
  )
}
