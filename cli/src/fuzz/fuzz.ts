import { createHash } from 'node:crypto'
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { seededRandom } from '@sober-prism/core/audio'
import { READERS } from './readers'
import { tryInput } from './try-input'

/**
 * Gives every reader broken files: `npm run fuzz -- [--inputs N] [--seconds S] [--seed N] [READER…]`. What goes
 * wrong is kept in `found/`, and tried by the tests from then on.
 */
const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    inputs: { type: 'string', default: '100000' },
    seconds: { type: 'string', default: '120' },
    seed: { type: 'string' },
  },
})
const seed = values.seed === undefined ? (Date.now() % 1e9) + 1 : Number(values.seed)
const found = join(import.meta.dirname, 'found')
console.log(`seed ${seed}`)
let failures = 0
for (const reader of READERS) {
  if (positionals.length > 0 && !positionals.includes(reader.name)) continue
  const random = seededRandom(seed)
  const from = performance.now()
  let count = 0
  let wrongs = 0
  while (
    count < Number(values.inputs) &&
    performance.now() - from < 1000 * Number(values.seconds)
  ) {
    const bytes = reader.make(random)
    count++
    const wrong = await tryInput(reader, bytes)
    if (wrong === null) continue
    failures++
    if (++wrongs > 5) break
    const name = `${reader.name}-${createHash('sha256').update(bytes).digest('hex').slice(0, 12)}`
    mkdirSync(found, { recursive: true })
    writeFileSync(join(found, name), bytes)
    console.log(`${reader.name}, input ${count}: ${wrong}\n  kept as ${name}`)
  }
  const seconds = (performance.now() - from) / 1000
  console.log(`${reader.name}: ${count} inputs in ${seconds.toFixed(0)} s, ${wrongs} wrong`)
}
process.exitCode = failures > 0 ? 1 : 0
