/** Whether a pointer is held down anywhere in the page: a drag may be going on. */
let isDown = false
const listeners = new Set<(down: boolean) => void>()

function set(down: boolean): void {
  if (down === isDown) return
  isDown = down
  for (const listener of listeners) listener(down)
}

if (typeof window !== 'undefined') {
  const options = { capture: true, passive: true }
  window.addEventListener('pointerdown', () => set(true), options)
  // A list of the browser's own takes the end of the press with it; what was chosen there comes as a change.
  for (const end of ['pointerup', 'pointercancel', 'dragend', 'change']) {
    window.addEventListener(end, () => set(false), options)
  }
  // Of the window alone: parts of the page lose the focus to others when they are pressed.
  window.addEventListener('blur', ({ target }) => target === window && set(false), options)
}

export const pressed = {
  get value(): boolean {
    return isDown
  },
  /** Calls back at each change; the result ends that. */
  watch(listener: (down: boolean) => void): () => void {
    listeners.add(listener)
    return () => void listeners.delete(listener)
  },
}
