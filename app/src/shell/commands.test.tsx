// @vitest-environment happy-dom
import { act, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode, openSession } from '../store/selectors'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { fakeOpen, sessionOf, show } from '../testing/render'
import { type Command, commandsAt, keyOf, keyText } from './commands'
import CommandsDialog from './commands-dialog'
import { useKeys } from './keys'

function commands() {
  const fake = fakeOpen()
  const go = vi.fn()
  const list = commandsAt({ store, open: fake.open, go })
  const run = (name: string) => {
    const command = list.find((c) => c.name === name)
    if (!command) throw new Error(`There is no command “${name}”.`)
    act(() => command.run())
  }
  return { ...fake, go, list, run }
}

const root = () => store.getState()

function Keys({ list }: { list: readonly Command[] }) {
  useKeys(list)
  return <input aria-label="field" />
}

beforeEach(() => {
  store.dispatch(sessionActions.opened(sessionOf(['Voice', 'Kick', 'Snare'])))
  store.dispatch(interfaceActions.nodeChosen('t0'))
  store.dispatch(interfaceActions.listeningCleared())
})

describe('commands', () => {
  it('have names and keys of their own, and take none that a browser or screen reader needs', () => {
    const { list } = commands()
    const keys = list.flatMap((c) => c.key ?? [])
    expect(new Set(keys).size).toBe(keys.length)
    expect(new Set(list.map((c) => c.name)).size).toBe(list.length)
    const taken =
      /^(tab|enter|escape|f\d+)$|^Ctrl\+(?!(Shift\+)?z$)|^Alt\+(arrowleft|arrowright|.)$/
    expect(keys.filter((k) => taken.test(k))).toEqual([])
  })

  it('act on everything that is chosen, in one step', () => {
    const { run } = commands()
    store.dispatch(interfaceActions.nodeChosenToo('t1'))
    run('Mute selected')
    expect(openSession(root()).tracks.map((t) => t.mute)).toEqual([true, true, false])
    run('Undo')
    expect(openSession(root()).tracks.map((t) => t.mute)).toEqual([false, false, false])
    run('Group selected tracks')
    const { groups, tracks } = openSession(root())
    expect(tracks.map((t) => t.output)).toEqual([groups[0].id, groups[0].id, 'mix'])
  })

  it('walk through the tracks and round', () => {
    const { run } = commands()
    run('Previous track')
    expect(chosenNode(root())).toBe('mix')
    run('Next track')
    expect(chosenNode(root())).toBe('t0')
  })

  it('compare, and go back by the same command', () => {
    const { run, desk } = commands()
    run('Bypass this chain')
    expect(desk.hear).toHaveBeenCalledWith({
      kind: 'without',
      target: { of: 'chain', node: 't0' },
    })
    run('Bypass the selected treatment')
    expect(desk.stopHearing).toHaveBeenCalled()
  })

  it('set a band of each kind', () => {
    const { run, list } = commands()
    const names = list.filter((c) => c.name.startsWith('New ')).map((c) => c.name)
    expect(names.length).toBe(6)
    for (const name of names) run(name)
    const [equaliser] = openSession(root()).tracks[0].chain.treatments
    expect(equaliser.kind === 'equaliser' && equaliser.params.bands.length).toBe(names.length)
  })

  it('set the chosen band to the depths of cuts in use', () => {
    const { run } = commands()
    run('New bell at the plumb line')
    const depth = () => {
      const [equaliser] = openSession(root()).tracks[0].chain.treatments
      return equaliser.kind === 'equaliser' ? equaliser.params.bands[0].band.db : null
    }
    for (const db of [3, 6, 9, 12]) {
      run(`Cut ${db} dB with the selected band`)
      expect(depth()).toBe(-db)
    }
  })

  it('lead to the other steps', () => {
    const { run, go } = commands()
    run('Deliver')
    expect(go).toHaveBeenCalledWith('deliver')
  })
})

describe('keys', () => {
  it('are read and shown alike', () => {
    const key = (key: string, held: Partial<KeyboardEvent> = {}) =>
      keyOf({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held })
    expect(key('M')).toBe('m')
    expect(key('Z', { metaKey: true, shiftKey: true })).toBe('Ctrl+Shift+z')
    expect(key('ArrowDown', { altKey: true })).toBe('Alt+arrowdown')
    expect([' ', 'm', 'Ctrl+Shift+z', 'Alt+arrowdown'].map(keyText)).toEqual([
      'Space',
      'M',
      'Ctrl Shift Z',
      'Alt ↓',
    ])
  })

  it('are not taken while one types, nor without a modifier where that is switched off', async () => {
    const m: Command = { group: 'Tracks', name: 'm', key: 'm', run: vi.fn() }
    const undo: Command = { group: 'Session', name: 'undo', key: 'Ctrl+z', run: vi.fn() }
    const { user } = show(<Keys list={[m, undo]} />, sessionOf(['A']))
    await user.keyboard('m')
    await user.type(screen.getByLabelText('field'), 'mm')
    expect(m.run).toHaveBeenCalledTimes(1)
    await user.click(document.body)
    act(() => void store.dispatch(interfaceActions.plainKeysSwitched()))
    await user.keyboard('m{Control>}z{/Control}')
    act(() => void store.dispatch(interfaceActions.plainKeysSwitched()))
    expect(m.run).toHaveBeenCalledTimes(1)
    expect(undo.run).toHaveBeenCalledTimes(1)
  })
})

describe('the list of commands', () => {
  it('is searched by words and run with Enter', async () => {
    const user = userEvent.setup()
    const { list, go } = commands()
    act(() => void store.dispatch(interfaceActions.commandsSwitched(true)))
    show(<CommandsDialog commands={list} />, sessionOf(['A']))
    await user.type(screen.getByRole('combobox', { name: 'Command' }), 'deliv')
    expect(screen.getAllByRole('option').length).toBe(1)
    await user.keyboard('{Enter}')
    expect(go).toHaveBeenCalledWith('deliver')
    expect(root().interface.commandsOpen).toBe(false)
  })
})
