import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type CommandSpec, parseCall } from './arguments'
import { UsageError } from './cli-error'
import { figure, formatTable } from './table'

const SPEC: CommandSpec = {
  usage: 'try FILE [--at N] [--kind a|b] [--loud]',
  options: { at: 'string', kind: 'string', loud: 'boolean' },
  files: { min: 1, max: 2 },
}

describe('a call', () => {
  it('is read with its files, options and flags, in any order', () => {
    const call = parseCall(['--at', '2.5', 'one.wav', '--json', '--loud', 'two.wav'], SPEC)
    expect(call.files).toEqual(['one.wav', 'two.wav'])
    expect([call.json, call.force, call.flag('loud')]).toEqual([true, false, true])
    expect([call.number('at'), call.number('missing')]).toEqual([2.5, undefined])
    expect(call.choice('kind', ['a', 'b'], 'b')).toBe('b')
  })

  it.each([[[]], [['a', 'b', 'c']], [['a', '--odd']], [['a', '--at']]])(
    'is refused with the usage: %j',
    (args) => {
      expect(() => parseCall(args, SPEC)).toThrow(UsageError)
    },
  )

  it('refuses values that are none, when they are asked for', () => {
    const call = parseCall(['a', '--at', 'soon', '--kind', 'c'], SPEC)
    expect(() => call.number('at')).toThrow(/--at takes a number, not "soon"/)
    expect(() => call.choice('kind', ['a', 'b'], 'a')).toThrow(/--kind takes a, b, not "c"/)
  })

  it('never fails in any other way', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 8 }), { maxLength: 5 }), (args) => {
        try {
          parseCall(args, SPEC)
        } catch (error) {
          expect(error).toBeInstanceOf(UsageError)
        }
      }),
    )
  })
})

describe('tables', () => {
  it('line up, names to the left and figures to the right', () => {
    expect(
      formatTable([
        ['name', 'dB'],
        ['a', '-10.5'],
        ['longer', '3.0'],
      ]),
    ).toBe('name       dB\na       -10.5\nlonger    3.0\n')
    expect([figure(null), figure(1.25), figure(-0.5, 2)]).toEqual(['-', '1.3', '-0.50'])
  })
})
