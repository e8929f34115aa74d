// @vitest-environment happy-dom
import type { Edit } from '@sober-prism/core/session'
import { act, screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { sessionOf, show } from '../testing/render'
import { ReferenceRows } from './hear-reference'

const RATE = 48_000
const references: Edit = {
  kind: 'add-references',
  references: ['Quay', 'Lantern'].map((name, i) => ({
    id: name.toLowerCase(),
    name,
    audio: { hash: `${i}`.repeat(64), channels: 2, frames: 60 * RATE },
  })),
}
const passage: Edit = {
  kind: 'set-session',
  change: { passage: { fromFrame: 10 * RATE, toFrame: 30 * RATE } },
}

describe('references under the mix', () => {
  it('take no room where there is none', () => {
    show(<ReferenceRows />, sessionOf(['Voice']))
    expect(screen.queryByRole('slider')).toBeNull()
  })

  it('are listened to at a place and over a length of their own, in steps that are undone', async () => {
    const { user, session } = show(<ReferenceRows />, sessionOf(['Voice'], references, passage))
    const own = () => session().references[0].passage
    const length = screen.getByRole('textbox', { name: /^Length in Quay/ })
    // As long as the session's passage, and its middle.
    expect(length).toHaveProperty('value', '20.0')
    const place = screen.getByRole('slider', { name: 'Start in Quay' })
    expect(place.getAttribute('aria-valuenow')).toBe('20')
    expect(own()).toBeNull()
    await user.clear(length)
    await user.type(length, '8{Enter}')
    expect(own()).toEqual({ fromFrame: 20 * RATE, toFrame: 28 * RATE })
    act(() => place.focus())
    await user.keyboard('{End}')
    expect(own()).toEqual({ fromFrame: 52 * RATE, toFrame: 60 * RATE })
    // Longer again, it begins earlier: it ends where the recording does.
    await user.clear(length)
    await user.type(length, '30{Enter}')
    expect(own()).toEqual({ fromFrame: 30 * RATE, toFrame: 60 * RATE })
    await user.clear(length)
    await user.type(length, '61{Enter}')
    expect(own()).toEqual({ fromFrame: 30 * RATE, toFrame: 60 * RATE })
    await user.click(screen.getByRole('button', { name: 'Quay as long as the passage' }))
    expect(own()).toBeNull()
  })

  it('show the passage of the one that was heard last', () => {
    const { desk } = show(<ReferenceRows />, sessionOf(['Voice'], references, passage))
    const heard = (reference: string | null) =>
      act(() =>
        desk.heard.set(
          reference === null
            ? null
            : ({ rendition: { kind: 'reference', reference, range: null }, gainDb: 0 } as never),
        ),
      )
    screen.getByRole('slider', { name: 'Start in Quay' })
    heard('lantern')
    screen.getByRole('slider', { name: 'Start in Lantern' })
    expect(screen.getByRole('button', { name: /Listen to Lantern/, pressed: true })).toBeTruthy()
    heard(null)
    screen.getByRole('slider', { name: 'Start in Lantern' })
  })
})
