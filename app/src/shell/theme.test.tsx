// @vitest-environment happy-dom
import Typography from '@mui/material/Typography'
import { screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { SHEETS } from '../plot/inks'
import { sessionOf, show } from '../testing/render'

const sources = import.meta.glob<string>('../**/*.tsx', {
  query: '?raw',
  import: 'default',
  eager: true,
})

/** The colours that text is given by name anywhere in the interface. */
const named = [
  ...new Set(
    Object.values(sources).flatMap((text) =>
      [...text.matchAll(/<Typography[^>]*?\scolor="([^"]+)"/gs)].map(([, name]) => name),
    ),
  ),
]

describe('text on the sheet', () => {
  it.each(named)('has the colour that it names: %s', (color) => {
    show(<Typography color={color}>softly</Typography>, sessionOf(['A']))
    const inks = [SHEETS.light.inkSoft, SHEETS.light.warning, SHEETS.light.accent]
    expect(inks).toContain(getComputedStyle(screen.getByText('softly')).color)
  })

  it('stands in full ink where nothing else is said', () => {
    expect(named.length).toBeGreaterThan(1)
    show(<Typography>plainly</Typography>, sessionOf(['A']))
    expect(getComputedStyle(screen.getByText('plainly')).color).not.toBe(SHEETS.light.inkSoft)
  })
})
