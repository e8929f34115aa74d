import type { ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import puppeteer, { type Browser, type ElementHandle, type Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { launch } from './browser'
import { figures, nullOutput, PULSEAUDIO } from './null-output'
import { freshPage, openAnnouncement } from './session-page'
import { noiseFile } from './sounds'

const FIREFOX = '/usr/bin/firefox-esr'
const isThere = existsSync(FIREFOX) && existsSync(PULSEAUDIO)

// Debian's packages firefox-esr and pulseaudio are asked for; without them all of this is skipped.
describe.skipIf(!isThere)('in a second browser engine', () => {
  let folder: string
  let sound: ChildProcess
  let browser: Browser
  let page: Page
  const problems: string[] = []
  const text = (words: string) => page.locator(`::-p-text(${words})`)
  const named = (name: string, role: string) =>
    page.locator(`::-p-aria([name="${name}"][role="${role}"])`)

  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'sober-prism-firefox-'))
    const output = nullOutput(folder)
    sound = output.sound
    browser = await puppeteer.launch({
      browser: 'firefox',
      executablePath: FIREFOX,
      env: output.env,
      extraPrefsFirefox: {
        'browser.download.dir': folder,
        'browser.download.folderList': 2,
        'media.autoplay.default': 0,
      },
    })
    page = await browser.newPage()
    await page.setViewport({ width: 1280, height: 800 })
    page.on('pageerror', (error) => problems.push(String(error)))
    page.on('console', (message) => {
      if (message.type() === 'error') problems.push(message.text())
    })
    await page.goto(inject('address'))
    await text('deck announcement, two takes').click()
    await page.waitForFunction(() => /Measured over/.test(document.body.textContent ?? ''), {
      timeout: 40_000,
    })
  })
  afterAll(async () => {
    await browser?.close()
    sound?.kill()
    await rm(folder, { recursive: true, force: true })
  })

  it('measures the same figures', async () => {
    const here = await page.evaluate(figures)
    const other = await launch()
    const { page: there } = await freshPage(other)
    await openAnnouncement(there)
    expect(here.length).toBeGreaterThan(2)
    expect(here).toEqual(await there.evaluate(figures))
    await other.close()
  })

  it('plays', async () => {
    await named('Play', 'button').click()
    // The clock beside the button goes on.
    await page.waitForFunction(
      () => /0:0[1-9]\.\d/.test(document.querySelector('footer')?.textContent ?? ''),
      { timeout: 15_000 },
    )
    await named('Pause', 'button').click()
  })

  it('lines two tracks up in Fit, or says that it cannot', async () => {
    await named('Fit', 'link').click()
    await named('Search', 'button').click()
    await page.waitForFunction(
      () =>
        /samples \(|already aligned|are not the same source/.test(document.body.textContent ?? ''),
      { timeout: 30_000 },
    )
  })

  it('takes files in', async () => {
    await named('Gather', 'link').click()
    const { name, buffer } = noiseFile('Wind.wav', 1, { seconds: 0.5, channels: 1 })
    await writeFile(join(folder, name), buffer)
    const input = await page.waitForSelector('input[data-testid="track-files"]')
    await (input as ElementHandle<HTMLInputElement> | null)?.uploadFile(join(folder, name))
    await page.waitForFunction(() => /1 file imported/.test(document.body.textContent ?? ''))
  })

  it('renders, and hands the file over', async () => {
    await named('Deliver', 'link').click()
    await named('Render', 'button').click()
    await page.waitForSelector('table[aria-label="Rendered files"]', { timeout: 60_000 })
    await page.locator('table[aria-label="Rendered files"] button').click()
    await expect
      .poll(async () => (await readdir(folder)).filter((f) => /\.(wav|zip)$/.test(f)).length)
      .toBeGreaterThan(1)
    expect(problems).toEqual([])
  })
})
