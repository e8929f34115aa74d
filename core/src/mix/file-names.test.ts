import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fileName, fileNames } from './file-names'

describe('names of files', () => {
  it('are what every file system takes', () => {
    expect(fileName(' Lead / vox: take 2? ')).toBe('Lead _ vox_ take 2_')
    expect([fileName(''), fileName('…'), fileName('CON'), fileName('../..')]).toEqual([
      'untitled',
      '_',
      'CON_',
      '_____',
    ])
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (name) => {
        const made = fileName(name)
        expect(made).toMatch(/^[\p{L}\p{N} _-]+$/u)
        expect(new TextEncoder().encode(made).length).toBeLessThanOrEqual(201)
      }),
    )
  })

  it('differ within one folder, whatever the case, also after cleaning', () => {
    expect(fileNames(['A Voice', 'a voice', 'A:Voice', 'A_Voice', 'A Voice 2'], '.wav')).toEqual([
      'A Voice.wav',
      'a voice 2.wav',
      'A_Voice.wav',
      'A_Voice 2.wav',
      'A Voice 2 2.wav',
    ])
    const alike = fc.constantFrom('a', 'A', 'a 2', 'A 2', 'a:', 'a?', 'ä', 'a\u0308', '')
    fc.assert(
      fc.property(fc.array(alike, { maxLength: 30 }), (wanted) => {
        const made = fileNames(wanted, '.wav').map((name) => name.toLowerCase())
        expect(new Set(made).size).toBe(wanted.length)
      }),
    )
  })
})
