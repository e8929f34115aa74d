import { describe, expect, it } from 'vitest'
import { interfaceActions } from './interface-slice'
import { initialPreferences, loadPreferences } from './preferences'
import { makeStore } from './store'

function storage(kept: string | null = null) {
  let text = kept
  return {
    getItem: () => text,
    setItem: (_: string, value: string) => {
      text = value
    },
    get text() {
      return text
    },
  }
}

describe('preferences', () => {
  it('last from one visit to the next', () => {
    const kept = storage()
    const first = makeStore(kept)
    first.dispatch(interfaceActions.sheetTurned())
    first.dispatch(interfaceActions.evidenceFolded())
    first.dispatch(interfaceActions.introClosed('survey'))
    const { sheet, evidenceOpen, introsClosed } = makeStore(kept).getState().interface
    expect([sheet, evidenceOpen, introsClosed]).toEqual(['night', false, ['survey']])
  })

  it('are only that: nothing else of the interface is kept', () => {
    const kept = storage()
    const made = makeStore(kept)
    made.dispatch(interfaceActions.eyesSwitched())
    expect(kept.text).toBeNull()
    made.dispatch(interfaceActions.sheetTurned())
    expect(Object.keys(JSON.parse(kept.text ?? '')).sort()).toEqual(
      Object.keys(initialPreferences).sort(),
    )
  })

  it.each(['', 'no JSON', '[]', '{"sheet":"plaid"}', 'null'])('begin anew from “%s”', (text) => {
    expect(loadPreferences(storage(text))).toEqual(initialPreferences)
  })

  it('last until the page closes where storage is refused', () => {
    const refused = () => {
      throw new DOMException('denied', 'SecurityError')
    }
    const made = makeStore({ getItem: refused, setItem: refused })
    made.dispatch(interfaceActions.sheetTurned())
    expect(made.getState().interface.sheet).toBe('night')
  })
})
