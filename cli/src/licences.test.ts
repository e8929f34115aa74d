import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'

interface Locked {
  readonly dev?: boolean
  readonly link?: boolean
  readonly license?: string
}

/** Terms under which packages may be built in or shipped along. */
const TAKEN = ['MIT', 'ISC', 'BSD-2-Clause', 'BSD-3-Clause', 'Apache-2.0', '0BSD', 'OFL-1.1']
/** Used while building and testing only; nothing of them is shipped. */
const TOOLS = /^node_modules\/(axe-core|lightningcss)/
const lock = readFileSync(join(import.meta.dirname, '..', '..', 'package-lock.json'), 'utf8')
const packages = Object.entries(JSON.parse(lock).packages as Record<string, Locked>)

describe('what the product is made of', () => {
  it('stands under permissive terms', () => {
    const shipped = packages.filter(
      ([path, { dev, link }]) =>
        path.startsWith('node_modules/') && !dev && !link && !TOOLS.test(path),
    )
    expect(shipped.length).toBeGreaterThan(20)
    const others = shipped
      .filter(([, { license }]) => !TAKEN.includes(license ?? ''))
      .map(([path, { license }]) => `${path}: ${license}`)
    expect(others).toEqual([])
  })
})
