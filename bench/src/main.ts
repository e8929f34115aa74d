import { launch } from '../../e2e/src/browser'
import { startServer } from '../../e2e/src/serve'
import { measureDemo } from './demo'
import { measureFilters } from './filters'
import { measureLargeSession } from './large-session'
import { measureSurvey } from './survey'

/** Runs the measurements named on the command line, or all, and prints a table of each. */
const MEASUREMENTS = {
  filters: measureFilters,
  demo: measureDemo,
  large: measureLargeSession,
  survey: measureSurvey,
} as const

const asked = process.argv.slice(2)
const { address, stop } = await startServer()
for (const [name, measure] of Object.entries(MEASUREMENTS)) {
  if (asked.length > 0 && !asked.includes(name)) continue
  const browser = await launch()
  console.log(`\n## ${name}\n`)
  console.log('| what | measured |\n|---|---|')
  for (const [what, figure] of await measure(browser, address))
    console.log(`| ${what} | ${figure} |`)
  await browser.close()
}
stop()
