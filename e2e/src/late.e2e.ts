import { execFileSync } from 'node:child_process'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, openAnnouncement, recordFrom } from './session-page'

let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openAnnouncement(page)
})
afterAll(() => browser.close())

/** The browser's process that plays sound. */
function audioProcess(): number {
  const found = execFileSync('pgrep', ['-n', '-f', 'utility-sub-type=audio'])
  return Number(found.toString())
}
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const gaps = () =>
  page.evaluate(() => {
    type Player = { readonly late: { readonly value: { readonly gaps: number } } }
    const { player } = (window as unknown as { soberPrism: { desk: { player: Player } } })
      .soberPrism.desk
    return player.late.value.gaps
  })
/** Lets the sound stand still until three gaps were seen, as on a machine that is too late. */
async function stutter(): Promise<void> {
  const audio = audioProcess()
  while ((await gaps()) < 3) {
    process.kill(audio, 'SIGSTOP')
    await sleep(400)
    process.kill(audio, 'SIGCONT')
    await sleep(700)
  }
}

describe('a machine that is too late for the sound', () => {
  it('prepares more ahead from the next start on, which begins where one jumped to', async () => {
    const [before] = await recordFrom(page, 48_000, 0.5)
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await stutter()
    await page.getByRole('button', { name: /dropouts/ }).waitFor()
    const [after] = await recordFrom(page, 48_000, 0.5)
    await page.getByRole('button', { name: /buffering 0\.\d+ s/ }).waitFor()
    expect(before.some((v) => Math.abs(v) > 0.01)).toBe(true)
    // The same sound from the same frame; only the fade at the start may fall elsewhere.
    expect(after.subarray(2400)).toEqual(before.subarray(2400))
    expect(problems).toEqual([])
  })
})
