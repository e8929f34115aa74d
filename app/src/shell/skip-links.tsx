import Button from '@mui/material/Button'
import styles from './shell.module.css'

/** Where one may go right away, and what is looked for there: the first that stands on the page. */
const PLACES = [
  ['Skip to the work', ['#work']],
  ['Skip to the panel', ['[data-skip="panel"]', '#panel']],
  ['Skip to playback', ['#playback']],
] as const

/** The first stops of the tab key on every page; seen while they have the focus. */
export function SkipLinks() {
  const go = (places: readonly string[]) => {
    const found = places.map((p) => document.querySelector<HTMLElement>(p)).find((e) => e !== null)
    found?.focus()
    found?.scrollIntoView({ block: 'nearest' })
  }
  return (
    <nav className={styles.skip} aria-label="Skip links">
      {PLACES.map(([name, places]) => (
        <Button key={name} variant="contained" onClick={() => go(places)}>
          {name}
        </Button>
      ))}
    </nav>
  )
}
