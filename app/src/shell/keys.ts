import { chainOf, type WithoutTarget } from '@sober-prism/core/session'
import { errorSentence } from '@sober-prism/engine'
import { useEffect } from 'react'
import { redo, undo } from '../store/history'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, nodeOf, openSession, shownTreatment } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { useDesk } from './desk-context'

/** All keys of the app, as the help lists them. */
export const KEYS: readonly (readonly [string, string])[] = [
  ['Space', 'Play or pause'],
  ['Home', 'Back to the start of the passage'],
  ['F', 'Fair compare: without moves, at equal loudness'],
  ['T', 'The same without the chosen treatment'],
  ['G', 'The same without the chosen stage'],
  ['C', 'The same without this chain'],
  ['D', 'Only the difference, while comparing'],
  ['O', 'Fold to mono'],
  ['E', 'Eyes closed: hide all pictures'],
  ['N', 'Night sheet or light sheet'],
  ['M, S, L', 'Mute, solo or lift the chosen track or group'],
  ['Ctrl Z, Ctrl Shift Z', 'Undo, redo'],
  ['Arrow keys on a flag', 'Frequency and gain; with Shift finer'],
  ['Page Up, Page Down on a flag', 'Narrower, wider'],
  ['Delete on a flag', 'Remove the band'],
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
      f: () => compare({ of: 'all' }),
      t: () => compare(chosenTarget('treatment')),
      g: () => compare(chosenTarget('stage')),
      c: () => compare(chosenTarget('chain')),
      d: () => toggleDifference(),
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
    /** Hears the session without something, or goes back where that is heard already. */
    const compare = (target: WithoutTarget | null) => {
      const now = desk.heard.value?.rendition
      const isHeard = now && now.kind !== 'finding' && isSameTarget(now.target, target)
      if (!target || isHeard) desk.stopHearing()
      else desk.hear({ kind: 'without', target }).catch(tell)
    }
    const toggleDifference = () => {
      const now = desk.heard.value?.rendition
      if (!now || now.kind === 'finding') return
      const kind = now.kind === 'without' ? 'difference' : 'without'
      desk.hear({ kind, target: now.target }).catch(tell)
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
  const node = nodeOf(openSession(root), chosenNode(root))
  if (!node) return
  const change = { [key]: !node[key] }
  store.dispatch(
    sessionActions.edited([{ kind: 'set-node', node: node.id, change }], {
      listening: key !== 'mute',
    }),
  )
}

/** What of the chosen chain stands on the sheet. */
function chosenTarget(of: 'treatment' | 'stage' | 'chain'): WithoutTarget | null {
  const root = store.getState()
  const node = chosenNode(root)
  if (of === 'chain') return { of, node }
  if (of === 'stage') return { of, node, stage: root.interface.stage }
  const treatments = chainOf(openSession(root), node)?.treatments ?? []
  const shown = shownTreatment(treatments, root.interface)
  return shown && { of, node, treatment: shown.id }
}

function isSameTarget(a: WithoutTarget, b: WithoutTarget | null): boolean {
  return JSON.stringify(a) === JSON.stringify(b)
}

function isTyping(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement)
    return target.type !== 'checkbox' && target.type !== 'range'
  return target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement
}
