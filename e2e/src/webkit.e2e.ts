import { type ChildProcess, spawn } from 'node:child_process'
import { existsSync, readdirSync } from 'node:fs'
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { launch } from './browser'
import { figures, nullOutput, PULSEAUDIO } from './null-output'
import { freshPage, openAnnouncement } from './session-page'
import { noiseFile } from './sounds'
import { WebDriverPage } from './webdriver'

const DRIVER = '/usr/bin/WebKitWebDriver'
const XVFB = '/usr/bin/Xvfb'
const LIBRARIES = '/usr/lib/x86_64-linux-gnu'
const browserPath = existsSync(LIBRARIES)
  ? readdirSync(LIBRARIES)
      .filter((name) => name.startsWith('webkit2gtk-'))
      .map((name) => join(LIBRARIES, name, 'MiniBrowser'))
      .find(existsSync)
  : undefined
const isThere = browserPath && [DRIVER, XVFB, PULSEAUDIO].every(existsSync)

const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number }
      server.close(() => resolve(port))
    })
  })

// Debian's packages webkit2gtk-driver, xvfb and pulseaudio are asked for; without them all of this is skipped.
describe.skipIf(!isThere)('in a third browser engine', () => {
  let folder: string
  const running: ChildProcess[] = []

  /** The engine has shared memory only where it is asked for. */
  async function open(sharedMemory: boolean, env: NodeJS.ProcessEnv): Promise<WebDriverPage> {
    const port = await freePort()
    const own = { ...env, JSC_useSharedArrayBuffer: String(sharedMemory) }
    running.push(spawn(DRIVER, [`--port=${port}`], { env: own, stdio: 'ignore' }))
    const browserOptions = { binary: browserPath, args: ['--automation'] }
    const address = `http://127.0.0.1:${port}`
    const page = await WebDriverPage.open(address, {
      'webkitgtk:browserOptions': browserOptions,
    })
    await page.goto(inject('address'))
    return page
  }

  let page: WebDriverPage
  let display: NodeJS.ProcessEnv
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'sober-prism-webkit-'))
    const { env, sound } = nullOutput(folder)
    const DISPLAY = `:${100 + (process.pid % 900)}`
    running.push(sound)
    running.push(spawn(XVFB, [DISPLAY, '-screen', '0', '1280x900x24'], { stdio: 'ignore' }))
    display = { ...env, DISPLAY, LIBGL_ALWAYS_SOFTWARE: '1', WEBKIT_DISABLE_COMPOSITING_MODE: '1' }
    page = await open(true, display)
    await page.click("//button[contains(., 'deck announcement')]")
    await page.hasText(/Measured over/)
  }, 60_000)
  afterAll(async () => {
    await page?.close()
    for (const child of running) child.kill()
    await rm(folder, { recursive: true, force: true, maxRetries: 5 })
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
    await page.click("//button[@aria-label='Play']")
    // The clock beside the button goes on.
    const clock = () => document.querySelector('footer')?.textContent ?? ''
    await expect.poll(() => page.evaluate(clock), { timeout: 15_000 }).toMatch(/0:0[1-9]\.\d/)
    await page.click("//button[@aria-label='Pause']")
  })

  it('lines two tracks up in Fit, or says that it cannot', async () => {
    await page.click("//a[.='Fit']")
    await page.click("//button[.='Search']")
    await page.hasText(/samples \(|already aligned|are not the same source/)
  })

  it('takes files in', async () => {
    await page.click("//a[.='Gather']")
    const { name, buffer } = noiseFile('Wind.wav', 1, { seconds: 0.5, channels: 1 })
    const path = join(folder, name)
    await writeFile(path, buffer)
    await page.choose('input[data-testid=track-files]', path)
    await page.hasText(/1 file imported/)
  })

  it('renders', async () => {
    await page.click("//a[.='Deliver']")
    await page.click("//button[.='Render']")
    await page.hasText(/LUFSdBTPDownload.*Download/)
  })

  it('says on the first page what it lacks, where it has no shared memory', async () => {
    await page.close()
    page = await open(false, display)
    await page.hasText(/This browser lacks shared memory, without which nothing can be played/)
  })
})
