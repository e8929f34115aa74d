import { errorSentence } from '@sober-prism/engine'
import { useEffect } from 'react'
import { redo, undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { chosenOwner, openSession, trackOf } from '../store/selectors'
import { MIX, sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { useDesk } from './desk-context'

/** All keys of the app, as the help lists them. */
export const KEYS: readonly (readonly [string, string])[] = [
  ['Space', 'Play or pause'],
  ['Home', 'Back to the start of the passage'],
  ['F', 'Fair compare: without moves, at equal loudness'],
  ['O', 'Fold to mono'],
  ['E', 'Eyes closed: hide all pictures'],
  ['N', 'Night sheet or light sheet'],
  ['M, S, L', 'Mute, solo or lift the chosen track'],
  ['Ctrl Z, Ctrl Shift Z', 'Undo, redo'],
  ['Arrow keys on a flag', 'Frequency and gain; with Shift finer'],
  ['Page Up, Page Down on a flag', 'Narrower, wider'],
  ['Delete on a flag', 'Remove the move'],
  ['Arrow keys on the ruler', 'Move the plumb line'],
]

/** Keys of the whole app. Typing in a field is never taken for one. */
export function useKeys(): void {
  const desk = useDesk()
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (isTyping(event.target)) return
      if (event.ctrlKey || event.metaKey) {
        const letter = event.key.toLowerCase()
        if (letter !== 'z' && letter !== 'y') return
        event.preventDefault()
        store.dispatch(letter === 'y' || event.shiftKey ? redo() : undo())
        return
      }
      if (event.altKey) return
      const action = actions[event.key === ' ' ? ' ' : event.key.toLowerCase()]
      // A focused button keeps the space bar.
      if (!action || (event.key === ' ' && event.target instanceof HTMLButtonElement)) return
      event.preventDefault()
      action()
    }
    const actions: Readonly<Record<string, () => void>> = {
      ' ': () => void togglePlay(),
      home: () => desk.player.seek(openSession(store.getState()).passage?.fromFrame ?? 0),
      f: () => void toggleCompare(),
      o: () => store.dispatch(interfaceActions.monoSwitched()),
      e: () => store.dispatch(interfaceActions.eyesSwitched()),
      n: () => store.dispatch(interfaceActions.sheetTurned()),
      m: () => toggleTrack('mute'),
      s: () => toggleTrack('solo'),
      l: () => toggleTrack('lift'),
    }
    const togglePlay = async () => {
      if (desk.player.playing) return desk.player.pause()
      await desk.player.play().catch(tell)
    }
    const toggleCompare = async () => {
      if (desk.compare.value.kind === 'off') await desk.startCompare('all').catch(tell)
      else desk.stopCompare()
    }
    window.addEventListener('keydown', onKeyDown)
    return () => window.removeEventListener('keydown', onKeyDown)
  }, [desk])
}

function tell(error: unknown): void {
  store.dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning'))
}

function toggleTrack(key: 'mute' | 'solo' | 'lift'): void {
  const root = store.getState()
  const owner = chosenOwner(root)
  const track = owner === MIX ? null : trackOf(openSession(root), owner)
  if (!track) return
  store.dispatch(
    sessionActions.trackChanged(
      { id: track.id, change: { [key]: !track[key] } },
      { listening: key !== 'mute' },
    ),
  )
}

function isTyping(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement)
    return target.type !== 'checkbox' && target.type !== 'range'
  return target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement
}
