// @vitest-environment happy-dom
import { TREATMENT_KINDS } from '@sober-prism/core/treatments'
import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import PAGE from '../../../docs/words.md?raw'
import { Term } from './term'
import { meaningOf, WORDS, type Word } from './words'

const told = new Map(
  [...PAGE.matchAll(/^\| ([^|]+) \| ([^|]+) \|/gm)].map(([, word, meaning]) => [word, meaning]),
)

describe('words', () => {
  it('mean on the screen what the page of words says', () => {
    for (const [word, meaning] of Object.entries(WORDS)) expect(told.get(word)).toBe(meaning)
  })

  it('are told of every kind of treatment', () => {
    for (const { name } of Object.values(TREATMENT_KINDS)) expect(WORDS).toHaveProperty([name])
  })

  it('leave out names in files where they are explained', () => {
    for (const word of Object.keys(WORDS) as Word[]) expect(meaningOf(word)).not.toMatch(/`/)
    expect(meaningOf('Multiband')).toBe('A crossover with a chain for each band')
  })

  it('are explained where they stand', async () => {
    render(<Term word="lead">Leads</Term>)
    expect(screen.getByText('Leads').title).toBe('A track that others make room for')
    await userEvent.hover(screen.getByText('Leads'))
    expect((await screen.findByRole('tooltip')).textContent).toBe(meaningOf('lead'))
  })
})
