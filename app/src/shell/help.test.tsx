// @vitest-environment happy-dom
import { screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { sessionOf, show } from '../testing/render'
import HelpDialog from './help-dialog'
import { found, HELP, sectionFor } from './help-pages'

describe('the help', () => {
  it('has a section for every step, with text of its own', () => {
    const titles = ['gather', 'survey', 'clean', 'fit', 'shape', 'check', 'deliver'].map(
      (step) => HELP[sectionFor(step)].title,
    )
    expect(titles).toEqual([
      'Gather',
      'Survey',
      'Clean: a walk',
      'Fit: a walk',
      'Shape: a walk',
      'Check: a walk',
      'Deliver',
    ])
    expect(Math.min(...HELP.map((s) => s.text.length))).toBeGreaterThan(40)
    // Where nothing is said of a place, the first section stands.
    expect(sectionFor('sessions')).toBe(0)
  })

  it('finds sections by all words that are asked for, in any order', () => {
    const titles = found('FADER trim').map((s) => s.title)
    expect(titles).toContain('Gather')
    expect(titles).not.toContain('Two windows')
    expect(found('no-such-word')).toEqual([])
  })

  it('is searched, read, and leads nowhere else', async () => {
    const { user } = show(<HelpDialog />, sessionOf(['Voice']))
    await user.type(screen.getByRole('textbox', { name: 'Search' }), 'one window at a time')
    const text = within(screen.getByRole('region', { name: 'Text' }))
    text.getByRole('heading', { name: 'Two windows' })
    text.getByText(/A session is worked on in one window at a time/)
    await user.clear(screen.getByRole('textbox', { name: 'Search' }))
    await user.click(screen.getByText('The chain'))
    text.getByRole('heading', { name: 'The chain' })
    expect(text.queryAllByRole('link')).toEqual([])
    await user.type(screen.getByRole('textbox', { name: 'Search' }), 'no-such-word')
    text.getByText('Nothing in the help holds these words.')
  })
})
