// @vitest-environment happy-dom
import { act, fireEvent, screen } from '@testing-library/react'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { signed } from '../format'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { Badge } from './badge'
import { Choice } from './choice'
import { EmptyPlace } from './empty-place'
import { Fader } from './fader'
import { FigureField } from './figure-field'
import { IconAction } from './icon-action'
import { Intro } from './intro'
import { Running, remainingSeconds } from './running'
import { TickBox } from './tick-box'

const session = sessionOf([])

function Gain({ onChange = (_: number) => {} }) {
  const [db, setDb] = useState(-3)
  return (
    <FigureField
      label="Gain"
      unit="dB"
      value={db}
      limits={[-24, 24]}
      format={(v) => signed(v, 1)}
      step={(v, direction, fine) => v + direction * (fine ? 0.1 : 0.5)}
      onChange={(v) => {
        setDb(v)
        onChange(v)
      }}
    />
  )
}

describe('a figure', () => {
  const field = () => screen.getByRole<HTMLInputElement>('textbox', { name: 'Gain, dB' })

  it('is typed with either minus sign, point or comma, and taken with Enter', async () => {
    const { user } = show(<Gain />, session)
    for (const [typed, shown] of [
      ['-4.5', '−4.5'],
      ['−6,25', '−6.3'],
      ['+2', '2.0'],
    ]) {
      await user.clear(field())
      await user.type(field(), `${typed}{Enter}`)
      expect(field().value).toBe(shown)
    }
  })

  it('stays as it was when what is typed is out of range, and says what is accepted', async () => {
    const { user } = show(<Gain />, session)
    await user.clear(field())
    await user.type(field(), '99{Enter}')
    expect(field().value).toBe('−3.0')
    expect(store.getState().interface.notice?.text).toContain('from −24.0 to 24.0 dB')
  })

  it('goes by arrow keys, finer with Shift, no further than its limits, and back with Escape', async () => {
    const changed = vi.fn()
    const { user } = show(<Gain onChange={changed} />, session)
    await user.click(field())
    await user.keyboard('{ArrowUp}{Shift>}{ArrowDown}{/Shift}')
    expect(changed.mock.calls.map(([v]) => v)).toEqual([-2.5, -2.6])
    await user.keyboard('12{Escape}')
    expect(field().value).toBe('−2.6')
    await user.clear(field())
    await user.type(field(), '24{Enter}')
    await user.click(field())
    await user.keyboard('{ArrowUp}')
    expect(field().value).toBe('24.0')
  })
})

describe('a figure under the hand', () => {
  const field = () => screen.getByRole<HTMLInputElement>('textbox', { name: 'Gain, dB' })

  it('goes by the wheel only while it has the focus', () => {
    show(<Gain />, session)
    fireEvent.wheel(field(), { deltaY: -100 })
    expect(field().value).toBe('−3.0')
    act(() => field().focus())
    fireEvent.wheel(field(), { deltaY: -100 })
    fireEvent.wheel(field(), { deltaY: -100 })
    expect(field().value).toBe('−2.0')
    fireEvent.wheel(field(), { deltaY: 100 })
    expect(field().value).toBe('−2.5')
  })

  it('goes by its label, a step for every four pixels, and stays when it is let go', () => {
    show(<Gain />, session)
    const label = screen.getByText('Gain')
    fireEvent.pointerDown(label, { button: 0, clientX: 100, pointerId: 1 })
    fireEvent.pointerMove(label, { clientX: 109, pointerId: 1 })
    expect(field().value).toBe('−2.0')
    fireEvent.pointerMove(label, { clientX: 104, pointerId: 1 })
    expect(field().value).toBe('−2.5')
    fireEvent.lostPointerCapture(label, { pointerId: 1 })
    fireEvent.pointerMove(label, { clientX: 300, pointerId: 1 })
    expect(field().value).toBe('−2.5')
  })
})

describe('the parts', () => {
  it('name themselves and what they hold', async () => {
    const [picked, ticked, pressed] = [vi.fn(), vi.fn(), vi.fn()]
    const { user } = show(
      <>
        <Choice
          label="Slope"
          value={12}
          options={[
            [12, '12 dB/oct'],
            [24, '24 dB/oct'],
          ]}
          onChange={picked}
        />
        <TickBox label="⌀" name="Polarity inverted" checked={false} onChange={ticked} />
        <IconAction label="Undo" hint="Ctrl Z" icon={<i />} onClick={pressed} pressed={false} />
        <Badge letter="A" lead />
        <EmptyPlace text="Nothing is here yet." />
      </>,
      session,
    )
    await user.selectOptions(screen.getByRole('combobox', { name: 'Slope' }), '24 dB/oct')
    expect(picked).toHaveBeenCalledWith(24)
    await user.click(screen.getByRole('checkbox', { name: 'Polarity inverted' }))
    expect(ticked).toHaveBeenCalledWith(true)
    await user.click(screen.getByRole('button', { name: 'Undo', pressed: false }))
    expect(pressed).toHaveBeenCalledOnce()
    expect(screen.getByTitle('Lead').textContent).toBe('A')
    screen.getByText('Nothing is here yet.')
  })

  it('move a fader by half a decibel with the keyboard', async () => {
    const moved = vi.fn()
    const { user } = show(<Fader label="Fader of Kick" db={-6} onChange={moved} />, session)
    const slider = screen.getByRole('slider', { name: 'Fader of Kick' })
    expect(slider.getAttribute('aria-valuetext')).toBe('−6.0 dB')
    act(() => slider.focus())
    await user.keyboard('{ArrowRight}')
    expect(moved).toHaveBeenCalledWith(-5.5)
  })

  it('put an introduction away for good', async () => {
    const { user, unmount } = show(<Intro step="gather">What this is for.</Intro>, session)
    await user.click(screen.getByRole('button', { name: 'Hide this note' }))
    expect(screen.queryByText('What this is for.')).toBeNull()
    unmount()
    show(<Intro step="gather">What this is for.</Intro>, session)
    expect(screen.queryByText('What this is for.')).toBeNull()
    expect(JSON.parse(localStorage.getItem('sober-prism.preferences') ?? '')).toMatchObject({
      introsClosed: ['gather'],
    })
  })
})

describe('work under way', () => {
  it('tells what remains once that can be told', () => {
    expect(remainingSeconds(0.05, 60_000)).toBeNull()
    expect(remainingSeconds(0.5, 500)).toBeNull()
    expect(remainingSeconds(0.25, 10_000)).toBeCloseTo(30, 9)
  })

  it('has a name, a share and a way to end it', async () => {
    const cancel = vi.fn()
    const { user } = show(
      <Running what="Rendering the mix" share={0.4} onCancel={cancel} />,
      session,
    )
    const bar = screen.getByRole('progressbar', { name: 'Rendering the mix' })
    expect(bar.getAttribute('aria-valuenow')).toBe('40')
    await user.click(screen.getByRole('button', { name: 'Cancel: Rendering the mix' }))
    expect(cancel).toHaveBeenCalledOnce()
  })
})
