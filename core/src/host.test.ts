import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { fileURLToPath } from 'node:url'
import { describe, expect, it } from 'vitest'
import { installKernels, type KernelName } from './host'

const pffft = () =>
  readFileSync(
    createRequire(import.meta.url)
      .resolve('@echogarden/pffft-wasm/simd')
      .replace(/\.js$/, '.wasm'),
  )

const ASSEMBLED: KernelName[] = ['add', 'array', 'energy', 'halve', 'peak', 'section', 'spread']

/** Every place in which the core computes, by the file that prepares it, and whether the transform is given there. */
const HOSTS: readonly [file: string, hasFft: boolean][] = [
  ['core/src/testing/setup.ts', true],
  ['cli/src/host.ts', true],
  ['cli/src/beside-thread.ts', false],
  ['engine/src/work/task.worker.ts', true],
  ['engine/src/sound/live.worker.ts', true],
  ['engine/src/sound/mixer.worklet.ts', true],
  ['bench/page/filters.ts', true],
]

describe('kernels of a host', () => {
  it('are all there, with the transform where it is given', () => {
    expect(installKernels(null)).toEqual(ASSEMBLED)
    expect(installKernels(pffft())).toEqual([...ASSEMBLED, 'fft'])
  })

  it.each(HOSTS)('are installed by %s in one call', (file, hasFft) => {
    const source = readFileSync(fileURLToPath(new URL(`../../${file}`, import.meta.url)), 'utf8')
    const calls = [...source.matchAll(/\binstallKernels\((.*)\)/g)]
    expect(calls).toHaveLength(1)
    expect(calls[0][1] !== 'null').toBe(hasFft)
    expect(source).not.toMatch(/\binstall(?!Kernels)\w+\(/)
  })
})
