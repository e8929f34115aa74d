import { join } from 'node:path'
import { launch } from '../../e2e/src/browser'
import { startServer } from '../../e2e/src/serve'
import { measureDemo } from './demo'
import { measureFilters } from './filters'
import { measureFollowing, measureFollowingPlayed } from './following'
import { measureFrames } from './frames'
import { measureImport } from './import'
import {
  measureEndurance,
  measureLargeSession,
  measureLongTracks,
  measureManyTracks,
} from './large-session'
import { measureNative } from './native'
import { measureSurvey } from './survey'

/** Runs the measurements named on the command line, or the short ones, and prints a table of each. */
const MEASUREMENTS = {
  filters: measureFilters,
  demo: measureDemo,
  frames: measureFrames,
  import: measureImport,
  survey: measureSurvey,
  large: measureLargeSession,
  'following-played': measureFollowingPlayed,
} as const
/** Measurements that take gigabytes of disk or many minutes: only when asked for. */
const LONG = {
  endurance: measureEndurance,
  many: measureManyTracks,
  long: measureLongTracks,
} as const

const asked = process.argv.slice(2)
const print = (name: string, rows: readonly [string, string][]) => {
  console.log(`\n## ${name}\n`)
  console.log('| what | measured |\n|---|---|')
  for (const [what, figure] of rows) console.log(`| ${what} | ${figure} |`)
}

if (asked.length === 0 || asked.includes('native')) {
  print('native', measureNative(join(import.meta.dirname, '..', '..')))
}
if (asked.length === 0 || asked.includes('following')) print('following', await measureFollowing())
const { address, stop } = await startServer()
for (const [name, measure] of Object.entries({ ...MEASUREMENTS, ...LONG })) {
  if (asked.length > 0 ? !asked.includes(name) : name in LONG) continue
  const browser = await launch()
  print(name, await measure(browser, address))
  await browser.close()
}
stop()
