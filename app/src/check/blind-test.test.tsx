// @vitest-environment happy-dom
import { type BlindAnswer, blindOrder } from '@sober-prism/core/blind-test'
import { AS_IT_CAME, type BlindTest, type Edit } from '@sober-prism/core/session'
import { act, screen, within } from '@testing-library/react'
import type { UserEvent } from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { undo } from '../store/history'
import { sessionActions } from '../store/session-slice'
import { store } from '../store/store'
import { sessionOf, show } from '../testing/render'
import { blindVerdict } from './blind-words'
import { Component as CheckPage } from './check-page'

const kept: Edit[] = [
  { kind: 'set-node', node: 't0', change: { faderDb: -4 } },
  { kind: 'keep-variation', id: 'one', name: 'Small cuts', keptAt: '2026-05-06T07:08:09.000Z' },
]

async function begin(kind: string, trials: number) {
  const shown = show(<CheckPage />, sessionOf(['Voice'], ...kept))
  const { user } = shown
  await user.click(screen.getByRole('tab', { name: 'Blind test' }))
  await user.selectOptions(screen.getByLabelText('Question'), kind)
  await user.click(screen.getByRole('button', { name: `${trials} trials` }))
  await user.click(screen.getByRole('button', { name: 'Begin' }))
  /** What is hidden in the trial that stands. */
  const hidden = () =>
    (shown.desk.setBlind.mock.calls.findLast(([pair]) => pair) as [{ hidden: BlindAnswer }])[0]
      .hidden
  return { ...shown, hidden }
}
const say = (user: UserEvent, side: 'left' | 'right') =>
  user.keyboard(`{Shift>}{Arrow${side === 'left' ? 'Left' : 'Right'}}{/Shift}`)

describe('which is it', () => {
  it('is answered by keys, by one who knows: each place is heard, and all is right', async () => {
    const { user, desk, session, hidden } = await begin('Which is it?', 8)
    await user.keyboard('{ArrowDown}')
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'blind', place: 'hidden' })
    expect(screen.getByText('You hear X.')).toBeTruthy()
    await user.keyboard('{ArrowRight}')
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'blind', place: 'second' })
    const seen: string[] = []
    for (let i = 0; i < 8; i++) {
      seen.push(hidden())
      await say(user, hidden() === 'first' ? 'left' : 'right')
    }
    const result = within(screen.getByRole('dialog'))
    expect(result.getByText('8 of 8 right')).toBeTruthy()
    expect(result.getByText('Someone who guesses does as well once in 256 tries.')).toBeTruthy()
    expect(result.getByText('You hear the difference.')).toBeTruthy()
    const [test] = session().blindTests
    expect(seen).toEqual(blindOrder(test.seed, 8))
    expect([test.first.id, test.second.id]).toEqual([AS_IT_CAME, 'one'])
    await user.click(screen.getByRole('button', { name: 'Close' }))
    expect(screen.getByRole('table', { name: 'Blind tests' }).textContent).toContain('8 of 8 right')
    // An answer cannot be undone; a state that has changed since is said to have.
    act(() => void store.dispatch(undo()))
    expect(session().blindTests).toHaveLength(1)
    const change = { faderDb: -9 }
    act(
      () => void store.dispatch(sessionActions.edited([{ kind: 'set-node', node: 't0', change }])),
    )
    expect(await screen.findByText('Small cuts changed since.')).toBeTruthy()
  })

  it('looks the same whatever X is, and is kept as not finished when it is left', async () => {
    const { user, session, hidden } = await begin('Which is it?', 24)
    const pictures = new Map<string, string>()
    for (let i = 0; i < 12; i++) {
      await user.keyboard('{ArrowDown}')
      const text = screen.getByRole('dialog').textContent?.replace(/Trial \d+/, 'Trial') ?? ''
      expect(pictures.get(hidden()) ?? text).toBe(text)
      pictures.set(hidden(), text)
      await say(user, 'left')
    }
    expect(new Set(pictures.values()).size).toBe(1)
    await user.click(screen.getByRole('button', { name: 'Leave (Esc)' }))
    expect(session().blindTests[0].answers).toHaveLength(12)
    expect(screen.getByText('left after 12 of 24')).toBeTruthy()
  })
})

describe('which is better', () => {
  it('is told of two unnamed places, whose order changes from trial to trial', async () => {
    const { user, desk, session, hidden } = await begin('Which do you like better?', 12)
    expect(screen.queryByRole('button', { name: /Small cuts/ })).toBeNull()
    await user.keyboard('{ArrowLeft}')
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'blind', place: 'hidden' })
    await user.keyboard('{ArrowRight}')
    expect(desk.hear).toHaveBeenLastCalledWith({ kind: 'blind', place: 'other' })
    // One who likes the second, wherever it is.
    for (let i = 0; i < 12; i++) await say(user, hidden() === 'second' ? 'left' : 'right')
    expect(session().blindTests[0].answers.every((a) => a === 'second')).toBe(true)
    const result = within(screen.getByRole('dialog'))
    expect(result.getByText('12 of 12 for Small cuts')).toBeTruthy()
    expect(result.getByText('You prefer Small cuts.')).toBeTruthy()
  })
})

describe('what a test says', () => {
  const state = (name: string) => ({ id: name, name, state: '' })
  const made = (kind: BlindTest['kind'], trials: number, right: number): BlindTest => {
    const order = blindOrder(5, trials)
    const turned = (a: BlindAnswer) => (a === 'first' ? 'second' : 'first')
    const answers =
      kind === 'which'
        ? order.map((o, i) => (i < right ? o : turned(o)))
        : order.map((_, i) => (i < right ? 'first' : 'second'))
    return {
      id: 't',
      kind,
      first: state('A'),
      second: state('B'),
      trials,
      seed: 5,
      answers,
      beganAt: '2026-05-06T07:08:09.000Z',
    }
  }

  it('is read rightly by a layman, and says when it says little', () => {
    expect(blindVerdict(made('which', 12, 11))).toEqual({
      score: '11 of 12 right',
      odds: 'Someone who guesses does as well once in 315 tries.',
      verdict: 'You hear the difference.',
    })
    const even = blindVerdict(made('which', 8, 5))
    expect(even.odds).toBe('Someone who guesses does as well 36 times in 100.')
    expect(even.verdict).toMatch(
      /^Not told from guessing\. 8 trials are few: .* in 37 of 100 tests\.$/,
    )
    expect(blindVerdict(made('which', 40, 20)).verdict).toBe('Not told from guessing.')
  })

  it('takes no side in an even preference', () => {
    const even = blindVerdict(made('better', 12, 6))
    expect([even.odds, even.score]).toEqual(['Coins are as one-sided always.', '6 of 12 for B'])
    expect(even.verdict).toMatch(/^No preference shown/)
    // Two-sided: 9 of 12 is not enough, 10 of 12 is.
    expect(blindVerdict(made('better', 12, 9)).verdict).toMatch(/^No preference/)
    expect(blindVerdict(made('better', 12, 10)).verdict).toBe('You prefer A.')
  })
})
