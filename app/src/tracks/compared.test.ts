import { describe, expect, it } from 'vitest'
import { comparedRange, heardReference } from './compared'

const range = { fromHz: 200, toHz: 2000 }

describe('what is compared with references', () => {
  it('is a range of the mix or of a reference; the key of a treatment is none of it', () => {
    expect(comparedRange({ kind: 'range', node: 'mix', range })).toEqual(range)
    expect(comparedRange({ kind: 'range', node: 't0', range })).toBeNull()
    expect(comparedRange({ kind: 'reference', reference: 'r', range })).toEqual(range)
    expect(comparedRange(undefined)).toBeNull()
    expect(heardReference({ kind: 'reference', reference: 'r', range: null })).toBe('r')
    expect(heardReference({ kind: 'range', node: 'mix', range })).toBeNull()
  })
})
