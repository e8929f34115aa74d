// @vitest-environment happy-dom
import { newTreatment } from '@sober-prism/core/treatments'
import { screen } from '@testing-library/react'
import type { UserEvent } from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import { plumb } from '../../plot/plumb'
import { store } from '../../store/store'
import { sessionOf, show } from '../../testing/render'
import { NeedlesPanel } from './needles-panel'

const { params } = newTreatment('drawn-curve', 'd', 'clean')
const shown = async (hz: number | null = null, change: Partial<typeof params> = {}) => {
  plumb.set(hz)
  const onChange = vi.fn<(next: typeof params) => void>()
  const panel = (
    <NeedlesPanel params={{ ...params, ...change }} rateHz={48_000} onChange={onChange} />
  )
  const made = show(panel, sessionOf(['Piano']))
  await made.user.click(screen.getByRole('button', { name: 'Notches…' }))
  return { ...made, onChange }
}
const type = async (user: UserEvent, name: RegExp, text: string) => {
  const field = screen.getByRole('textbox', { name })
  await user.clear(field)
  await user.type(field, `${text}{Enter}`)
}
/** Where a curve goes down: its deep points. */
const deep = ({ points }: typeof params) =>
  points.filter((p) => p.db < -20).map((p) => Math.round(p.hz))

describe('needles', () => {
  it('begin at the plumb line, and are set by one press', async () => {
    const { user, onChange } = await shown(1234.5)
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: /^Tone/ }).value).toContain('1235')
    await user.click(screen.getByRole('button', { name: 'Add notch' }))
    const [next] = onChange.mock.calls[0]
    expect(next.points.length).toBeGreaterThan(params.points.length)
    expect(deep(next).some((hz) => Math.abs(hz - 1235) <= 5)).toBe(true)
  })

  it('stand on the harmonics of a note, exact or stretched as a string stretches them', async () => {
    const { user, onChange } = await shown()
    await type(user, /^Tone/, 'A3')
    await type(user, /^Harmonics/, '4')
    await user.click(screen.getByRole('button', { name: 'Add 4 notches' }))
    const exact = deep(onChange.mock.calls[0][0])
    for (const hz of [220, 440, 660, 880]) {
      expect(exact.some((f) => Math.abs(f - hz) <= 5)).toBe(true)
    }
    await user.click(screen.getByRole('button', { name: 'Notches…' }))
    await type(user, /^Inharmonicity/, '2000')
    await user.click(screen.getByRole('button', { name: 'Add 4 notches' }))
    const stretched = deep(onChange.mock.calls[1][0])
    expect(Math.max(...stretched)).toBeGreaterThan(Math.max(...exact) + 5)
  })

  it('say how narrow the filter can be, and what there is no room for', async () => {
    const points = Array.from({ length: 900 }, (_, i) => ({ hz: 20 + 0.01 * i, db: 0 }))
    const { user, onChange } = await shown(200, { taps: 1024, points })
    await type(user, /^Width/, '4')
    screen.getByText(/With 1024 taps a notch is at least 281 Hz wide/)
    await type(user, /^Tone/, '30')
    await type(user, /^Harmonics/, '64')
    await user.click(screen.getByRole('button', { name: 'Add 64 notches' }))
    expect(onChange).not.toHaveBeenCalled()
    expect(store.getState().interface.notice?.text).toMatch(/A curve holds up to \d+ points/)
  })
})
