import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll } from 'vitest'
import { launch } from './browser'
import { freshPage } from './session-page'

/** A page for all tests of a file, in a browser of its own with an empty profile; what went wrong on it is in `problems`. */
export function opened(open: (page: Page) => Promise<void>): Awaited<ReturnType<typeof freshPage>> {
  const made: Awaited<ReturnType<typeof freshPage>>[] = []
  let browser: Browser
  beforeAll(async () => {
    browser = await launch()
    const fresh = await freshPage(browser)
    made.push(fresh)
    await open(fresh.page)
  })
  afterAll(() => browser.close())
  return {
    get page() {
      return made[0].page
    },
    get problems() {
      return made[0].problems
    },
  }
}
