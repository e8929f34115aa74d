import styles from './controls.module.css'

interface BadgeProps {
  readonly letter: string
  readonly lead?: boolean
  readonly group?: boolean
}

/** The letter of a track or group; filled where it leads, with a double frame for a group. */
export function Badge({ letter, lead = false, group = false }: BadgeProps) {
  return (
    <span
      className={styles.badge}
      data-lead={lead}
      data-group={group}
      title={lead ? 'Lead' : undefined}
    >
      {letter}
    </span>
  )
}
