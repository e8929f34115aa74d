import { describe, expect, it } from 'vitest'
import {
  formatDb,
  formatHz,
  formatHzWithNote,
  formatTime,
  parseFigure,
  parseHz,
  parseQ,
  signed,
} from './format'

describe('figures', () => {
  it.each([
    ['1000', 1000],
    ['2.3k', 2300],
    ['2,3 k', 2300],
    ['1k5', null],
    ['-4.5', -4.5],
    ['−4.5 dB', -4.5],
    ['+3', 3],
    ['.5', 0.5],
    ['440 Hz', 440],
    ['', null],
    ['loud', null],
    ['1e5', null],
    ['4-', null],
  ])('reads %s as %s', (text, value) => {
    expect(parseFigure(text)).toBe(value)
  })

  it('are written with a real minus, and none before zero', () => {
    expect([signed(-0.04), signed(-1.25, 2), formatDb(-200), formatDb(null)]).toEqual([
      '0.0',
      '−1.25',
      '−∞',
      '–',
    ])
  })

  it('name frequencies and notes', () => {
    expect([formatHz(87.3), formatHz(440), formatHz(2300), formatHz(12500)]).toEqual([
      '87.3 Hz',
      '440 Hz',
      '2.30 kHz',
      '12.5 kHz',
    ])
    expect(formatHzWithNote(440)).toBe('440 Hz  A4 +0c')
  })

  it('tell time in minutes and tenths', () => {
    expect([formatTime(0), formatTime(59.999), formatTime(61.25)]).toEqual([
      '0:00.0',
      '0:59.9',
      '1:01.2',
    ])
  })
})

describe('typed frequencies and widths', () => {
  it.each([
    ['2.2k', 2200],
    ['A4', 440],
    ['a4+15c', 443.83],
    ['A3 −50c', 213.74],
    ['C4', 261.63],
    ['f#2', 92.5],
    ['B♭1', 58.27],
    ['H2', null],
    ['A4+c', null],
  ])('%j is %s Hz', (text, hz) => {
    const read = parseHz(text)
    if (hz === null) expect(read).toBeNull()
    else expect(read).toBeCloseTo(hz, 2)
  })

  it.each([
    ['4', 4],
    ['1 oct', Math.SQRT2],
    ['0,3 oct', 4.8],
    ['oct', null],
    ['-1 oct', null],
  ])('%j is a Q of %s', (text, q) => {
    const read = parseQ(text)
    if (q === null) expect(read).toBeNull()
    else expect(read).toBeCloseTo(q, 2)
  })
})
