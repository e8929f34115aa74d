import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import {
  attempt,
  build,
  chromium,
  demo,
  install,
  readJson,
  root,
  TYPED,
  tool,
  typesOf,
} from './steps.mjs'

install()
chromium()
build(true)
demo()

const cache = join(root, '.cache')
mkdirSync(cache, { recursive: true })
const node = process.execPath
let passed = 0
let failed = 0

/** A check that passes or fails as one. */
function check(name, status) {
  console.log(`${status === 0 ? 'passed' : 'FAILED'}: ${name}`)
  if (status === 0) passed++
  else failed++
}

/** A Vitest run, counted test by test. */
function vitest(name, args) {
  const report = join(cache, `${name}.json`)
  const reporters = ['--reporter=default', '--reporter=json', `--outputFile.json=${report}`]
  const status = attempt(node, [tool('vitest/vitest.mjs'), 'run', ...reporters, ...args])
  const { numPassedTests, numFailedTests, numFailedTestSuites } = readJson(report)
  passed += numPassedTests
  failed += numFailedTests
  // A file that cannot even be loaded has no tests to fail.
  if (status !== 0 && numFailedTests === 0) failed += Math.max(1, numFailedTestSuites)
}

check(
  'lint, format and import rule',
  attempt(node, [tool('@biomejs/biome/bin/biome'), 'check', '.']),
)
check(
  'dependencies declared and used (knip)',
  attempt(node, [tool('knip/bin/knip.js'), '--no-progress', '--no-config-hints']),
)
for (const part of TYPED) check(`types of ${part}`, typesOf(part))
vitest('unit', [])
vitest('browser', ['--config', 'e2e/vitest.config.ts'])
console.log(`${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)
