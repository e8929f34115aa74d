import { useEffect } from 'react'
import { useAppSelector } from '../store/store'
import { type Command, keyOf } from './commands'

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
      const command = byKey.get(key === 'Ctrl+y' ? 'Ctrl+Shift+z' : key)
      // What has the focus keeps its own keys: a button the space bar, a slider Home.
      const own = key === ' ' || key === 'home'
      if (!command || (own && target instanceof Element && target.closest(HAS_OWN_KEYS))) return
      event.preventDefault()
      command.run()
    }
    window.addEventListener('keydown', onKeyDown)
    return () => window.removeEventListener('keydown', onKeyDown)
  }, [commands, plainKeys])
}

const HAS_OWN_KEYS = 'button, a, input, [role="slider"], [role="tab"], [role="separator"], summary'

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
