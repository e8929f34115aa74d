import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { seededRandom } from '@sober-prism/core/audio'
import { describe, expect, it } from 'vitest'
import { READERS } from './readers'
import { tryInput } from './try-input'

const folder = join(import.meta.dirname, 'found')
const found = existsSync(folder) ? readdirSync(folder) : []
const INPUTS = 400

describe.each(READERS.map((r) => [r.name, r] as const))('the reader of %s', (name, reader) => {
  it('takes what is whole', async () => {
    for (const seed of reader.seeds) await reader.read(Uint8Array.from(seed))
  })

  it('tells broken files in a sentence, within a second and 300 MB', async () => {
    const random = seededRandom(20_261_126)
    for (let n = 0; n < INPUTS; n++) {
      expect(await tryInput(reader, reader.make(random))).toBeNull()
    }
  })

  it('takes as it should what went wrong once', async () => {
    for (const file of found.filter((f) => f.startsWith(`${name}-`))) {
      const bytes = new Uint8Array(readFileSync(join(folder, file)))
      expect([file, await tryInput(reader, bytes)]).toEqual([file, null])
    }
  })
})
