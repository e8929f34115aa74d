import { Signal } from '@sober-prism/engine'
import { useEffect } from 'react'
import { useAppSelector } from '../store/store'
import { type Command, keyOf } from './commands'

/** Keys that a step has for itself while it is open: they come before those of the app. */
export const stepKeys = new Signal<ReadonlyMap<string, () => void>>(new Map())

/** Keys of the whole app. Typing in a field is never taken for one; keys without a modifier can be switched off. */
export function useKeys(commands: readonly Command[]): void {
  const plainKeys = useAppSelector((root) => root.interface.plainKeys)
  useEffect(() => {
    const byKey = new Map(commands.flatMap((c) => (c.key ? [[c.key, c] as const] : [])))
    const onKeyDown = (event: KeyboardEvent) => {
      const { target } = event
      if (isTyping(target)) return
      const key = keyOf(event)
      if (!plainKeys && !key.includes('+')) return
      const ofStep = stepKeys.value.get(key)
      if (ofStep) {
        event.preventDefault()
        return ofStep()
      }
      const command = byKey.get(key === 'Ctrl+y' ? 'Ctrl+Shift+z' : key)
      // What has the focus keeps its own keys: a button the space bar, a slider Home.
      const own = OWN_KEYS[key]
      if (!command || (own && target instanceof Element && target.closest(own))) return
      event.preventDefault()
      command.run()
    }
    window.addEventListener('keydown', onKeyDown)
    return () => window.removeEventListener('keydown', onKeyDown)
  }, [commands, plainKeys])
}

const MOVED = '[type="range"], [type="radio"], [role="slider"], [role="tab"], [role="separator"]'

/** What keeps a key for itself while it has the focus. */
const OWN_KEYS: Readonly<Record<string, string>> = {
  ' ': `button, a, input, summary, ${MOVED}`,
  home: MOVED,
}

function isTyping(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) {
    return !['checkbox', 'radio', 'range'].includes(target.type)
  }
  return (
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement ||
    (target instanceof Element && target.closest('[role="dialog"], [role="menu"]') !== null)
  )
}
