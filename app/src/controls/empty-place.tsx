import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import styles from './controls.module.css'

/** Says what goes where nothing is yet, with the ways to it. */
export function EmptyPlace({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <div className={styles.empty}>
      <Typography>{text}</Typography>
      {children}
    </div>
  )
}
