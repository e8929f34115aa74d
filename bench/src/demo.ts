import type { Browser } from 'playwright-core'
import { pageMemoryMb, untilPlayed, watchForeseen } from './desk-in-page'

const PIECE_SECONDS = 65.8

/** From an empty profile to measured, sounding and rendered, on the demo. */
export async function measureDemo(browser: Browser, address: string): Promise<[string, string][]> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  const rows: [string, string][] = []
  const seconds = (from: number) => `${((performance.now() - from) / 1000).toFixed(2)} s`

  let from = performance.now()
  await page.goto(address)
  await page.getByRole('heading', { name: 'Sober Prism' }).waitFor()
  rows.push(['empty profile to first page', seconds(from)])

  from = performance.now()
  await page.getByRole('button', { name: /Tern Island ferry night/ }).click()
  await page.waitForURL(/survey/, { timeout: 60_000 })
  rows.push(['demo: 11 files read, hashed and stored', seconds(from)])
  from = performance.now()
  await page.getByRole('img', { name: /^Spectrum of Singer/ }).waitFor()
  rows.push(['time to first picture after that', seconds(from)])
  await page.getByText(/^Measured over/).waitFor({ timeout: 60_000 })
  rows.push([
    'spectra of 9 tracks, mix and 2 references, masking, findings of all kinds (24 s passage)',
    seconds(from),
  ])

  await page.reload()
  from = performance.now()
  await page.getByRole('img', { name: /^Spectrum of Singer/ }).waitFor()
  rows.push(['reopened: time to first picture', seconds(from)])
  await page.getByText(/^Measured over/).waitFor({ timeout: 60_000 })
  rows.push([
    'time to sound: key press to first block played',
    `${(await untilPlayed(page, 1)).toFixed(0)} ms`,
  ])
  await page.evaluate(() => window.soberPrism.desk.player.pause())

  await page.evaluate(watchForeseen)
  from = performance.now()
  await page.getByRole('button', { name: 'Apply' }).first().click()
  await page.getByText(/measured now/).waitFor()
  await page.getByText(/^Measured over/).waitFor({ timeout: 60_000 })
  const { levels, shares, heard } = await page.evaluate(() => window.foreseen)
  rows.push([
    'after one move: levels foreseen; shares foreseen; shares measured; all measured again',
    `${[levels, shares, heard].map((ms) => `${ms.toFixed(0)} ms`).join('; ')}; ${seconds(from)}`,
  ])

  await page.getByRole('link', { name: 'Deliver' }).click()
  from = performance.now()
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  await page.getByRole('table', { name: 'Rendered files' }).waitFor({ timeout: 60_000 })
  const took = (performance.now() - from) / 1000
  rows.push([
    'render of the mix with loudness, true peak, dither and WAV',
    `${took.toFixed(2)} s, ${(PIECE_SECONDS / took).toFixed(0)} times real time`,
  ])
  rows.push([
    'memory of page and workers, audio included',
    `${(await pageMemoryMb(page)).toFixed(0)} MB`,
  ])
  await context.close()
  return rows
}
