import { formatShare } from '../format'
import styles from './tracks.module.css'

/** How much of a track is heard: parts of its loudness that add up to all of it. */
interface HeardBarProps {
  readonly hidden: number
  readonly crowded: number
  readonly clear: number
  /** It is not measured yet but foreseen. */
  readonly foreseen?: boolean
}

export function heardWords({ hidden, crowded, clear }: HeardBarProps): string {
  return `${formatShare(clear)} clear, ${formatShare(crowded)} crowded, ${formatShare(hidden)} hidden`
}

/** A bar of a track's loudness: clear in full ink, crowded in half, hidden left open. What is foreseen is open as a whole. */
export function HeardBar({ foreseen = false, ...props }: HeardBarProps) {
  return (
    <span
      className={styles.heardBar}
      data-foreseen={foreseen}
      role="img"
      aria-label={`${heardWords(props)}${foreseen ? ', predicted' : ''}`}
    >
      <span data-part="clear" style={{ flexGrow: props.clear }} />
      <span data-part="crowded" style={{ flexGrow: props.crowded }} />
      <span style={{ flexGrow: props.hidden }} />
    </span>
  )
}
