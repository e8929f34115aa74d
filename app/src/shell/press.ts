import { interfaceActions } from '../store/interface-slice'
import type { AppDispatch } from '../store/store'

/** A page may take so long to be there, and what it measures first. */
const MOST_MS = 4000

/** What opens a section that is folded. */
const FOLDED = 'h2 > [aria-expanded="false"]'

/**
 * Presses controls of a page one after the other, each as soon as it stands there and can be pressed, just as a hand
 * would: by the name in its `data-command`; a section
 * that it is folded in is opened first. Says so where one cannot be.
 */
export function press(names: readonly string[], title: string, dispatch: AppDispatch): void {
  const [name, ...rest] = names
  const until = performance.now() + MOST_MS
  const attempt = () => {
    const control = document.querySelector<HTMLElement>(`[data-command="${name}"]:not(:disabled)`)
    const fold = control?.closest('[data-section]')?.querySelector<HTMLElement>(FOLDED)
    if (fold) {
      fold.click()
      requestAnimationFrame(attempt)
    } else if (control) {
      control.focus()
      control.click()
      if (rest.length > 0) press(rest, title, dispatch)
    } else if (performance.now() < until) requestAnimationFrame(attempt)
    else {
      const sentence = `“${title}” is not available here at the moment.`
      dispatch(interfaceActions.noticeShown(sentence, 'warning'))
    }
  }
  requestAnimationFrame(attempt)
}
