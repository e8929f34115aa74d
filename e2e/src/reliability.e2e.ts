import { unzipSync } from 'fflate'
import type { Browser, Page } from 'playwright-core'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { bytesOf, freshPage, measured } from './session-page'
import { noiseFile } from './sounds'

let browser: Browser
beforeAll(async () => {
  browser = await launch()
})
afterAll(() => browser.close())
// What an earlier test left open would go on measuring.
afterEach(async () => {
  for (const context of browser.contexts()) await context.close()
})

async function withTracks(count: number, seconds = 1): Promise<Page> {
  const { page } = await freshPage(browser)
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/\/gather$/)
  await bring(page, count, seconds)
  await page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 30_000 })
  return page
}

const bring = (page: Page, count: number, seconds = 1) =>
  page
    .getByTestId('track-files')
    .setInputFiles(Array.from({ length: count }, (_, i) => noiseFile(`T${i}.wav`, i, { seconds })))

const nameOfA = (page: Page) => page.getByLabel('Name of track A')

/** Runs in the page: calls of the storage that put something down fail from now on, or work again. */
function failWrites(fail: boolean): void {
  type Kept = { realPut?: IDBObjectStore['put'] }
  const kept = window as unknown as Kept
  kept.realPut ??= IDBObjectStore.prototype.put
  IDBObjectStore.prototype.put = fail
    ? () => {
        throw new DOMException('full', 'QuotaExceededError')
      }
    : kept.realPut
}

describe('an edit', () => {
  it('is there after a reload at any moment', async () => {
    const page = await withTracks(1)
    for (const [round, wait] of [0, 3, 40, 150, 310].entries()) {
      const name = `Round ${round}`
      await nameOfA(page).fill(name)
      await page.waitForTimeout(wait)
      await page.reload()
      await expect.poll(() => nameOfA(page).inputValue()).toBe(name)
    }
  })

  it('is there when the window was killed a tenth of a second later', async () => {
    const page = await withTracks(1)
    const url = page.url()
    await nameOfA(page).fill('Before the end')
    await page.waitForTimeout(100)
    const other = await page.context().newPage()
    const cdp = await page.context().newCDPSession(page)
    cdp.send('Page.crash').catch(() => {})
    await other.goto(url)
    await expect.poll(() => nameOfA(other).inputValue(), { timeout: 8000 }).toBe('Before the end')
  })

  it('of one session stays when another one is edited after it', async () => {
    const page = await withTracks(1)
    const first = page.url()
    await nameOfA(page).fill('Edited in the first')
    await page.getByRole('link', { name: 'Sober Prism' }).click()
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/\/gather$/)
    await page.getByLabel('Session', { exact: true }).fill('The second')
    await page.goto(first)
    await expect.poll(() => nameOfA(page).inputValue()).toBe('Edited in the first')
  })

  it('that is not saved stays marked, is asked about before leaving, and is saved by itself', async () => {
    const page = await withTracks(1)
    await page.evaluate(failWrites, true)
    await nameOfA(page).fill('Only on the screen')
    const note = page.getByRole('alert').filter({ hasText: 'Not saved.' })
    await note.getByText(/storage is full/).waitFor()
    await page.getByRole('link', { name: 'Sober Prism' }).click()
    const question = page.getByRole('dialog', { name: 'Leave this session?' })
    await question.getByText(/not saved/).waitFor()
    await question.getByRole('button', { name: 'Stay' }).click()
    await expect.poll(() => nameOfA(page).inputValue()).toBe('Only on the screen')
    // The mark is still there on another step.
    await page.getByRole('link', { name: 'Deliver' }).click()
    await note.waitFor()
    await page.evaluate(failWrites, false)
    await note.waitFor({ state: 'detached', timeout: 25_000 })
    await page.getByRole('link', { name: 'Gather' }).click()
    await page.reload()
    await expect.poll(() => nameOfA(page).inputValue()).toBe('Only on the screen')
  })

  it('of a session that was deleted in another window is told, and can be kept', async () => {
    const page = await withTracks(1)
    await page.getByLabel('Session', { exact: true }).fill('Twice open')
    await page.waitForTimeout(500)
    const other = await page.context().newPage()
    await other.goto(new URL('/', page.url()).href)
    await other.getByRole('button', { name: 'Delete Twice open' }).click()
    await other.getByText('“Twice open” deleted.').waitFor()
    await nameOfA(page).fill('Edited after that')
    const note = page.getByRole('alert').filter({ hasText: 'deleted in another window' })
    await note.waitFor()
    await other.reload()
    await expect.poll(() => other.getByRole('link', { name: 'Twice open' }).count()).toBe(0)
    await note.getByRole('button', { name: 'Keep what is here' }).click()
    await note.waitFor({ state: 'detached' })
    await other.reload()
    await other.getByRole('link', { name: 'Twice open' }).waitFor()
  })
})

describe('data of the site that is removed under an open session', () => {
  it('is told, and the session is stored anew from what is open', async () => {
    const page = await withTracks(1)
    const cdp = await page.context().newCDPSession(page)
    const { origin } = new URL(page.url())
    await cdp.send('Storage.clearDataForOrigin', { origin, storageTypes: 'indexeddb' })
    await nameOfA(page).fill('Still on the screen')
    await page.getByText(/data of this site was removed/).waitFor()
    // Nothing says done that is not.
    await page.waitForTimeout(1500)
    await page.reload()
    await expect.poll(() => nameOfA(page).inputValue()).toBe('Still on the screen')
    await page.getByRole('link', { name: 'Survey' }).click()
    await page.getByText(/is not in this browser. Import the file again/).waitFor()
    await page.getByRole('link', { name: 'Gather' }).click()
    await bring(page, 1)
    await page.getByRole('button', { name: 'Clear list' }).waitFor()
    await page.getByRole('link', { name: 'Survey' }).click()
    await measured(page)
  })
})

describe('a session that cannot be read', () => {
  it('is told and given out as it is, goes back to its last good state, and hides no other', async () => {
    const page = await withTracks(1)
    const broken = page.url()
    await page.getByLabel('Session', { exact: true }).fill('Will break')
    await page.getByRole('link', { name: 'Sober Prism' }).click()
    await page.getByRole('link', { name: 'Will break' }).waitFor()
    await page.evaluate(
      (id) =>
        new Promise<void>((resolve, reject) => {
          const opening = indexedDB.open('sober-prism')
          opening.onerror = () => reject(opening.error)
          opening.onsuccess = () => {
            const all = opening.result.transaction('sessions', 'readwrite')
            const store = all.objectStore('sessions')
            const reading = store.get(id)
            reading.onsuccess = () => {
              reading.result.document.sampleRateHz = 'fast'
              store.put(reading.result)
            }
            all.oncomplete = () => {
              opening.result.close()
              resolve()
            }
          }
        }),
      broken.split('/')[4],
    )
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/\/gather$/)
    await page.goto(new URL('/', broken).href)
    await expect
      .poll(() => page.getByRole('table', { name: 'Sessions' }).locator('tbody tr').count())
      .toBe(2)
    await page.getByRole('link', { name: 'Will break' }).click()
    await page.getByText(/sampleRateHz/).waitFor()
    const saving = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Export the stored data' }).click()
    expect(new TextDecoder().decode(await bytesOf(await saving))).toContain('"fast"')
    await page.getByRole('button', { name: /^Open the last readable state/ }).click()
    await page.getByRole('link', { name: 'Gather' }).click()
    await nameOfA(page).waitFor()
  })
})

describe('long work', () => {
  it('goes on while one works elsewhere, is seen from there, and is asked about before leaving', async () => {
    const { page } = await freshPage(browser)
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/\/gather$/)
    // The rest waits until it has been seen from another step.
    let letOn = () => {}
    const held = new Promise<void>((resolve) => {
      letOn = resolve
    })
    let workers = 0
    await page.route(/files\.worker.*\.js$/, async (route) => {
      if (++workers > 1) await held
      await route.continue()
    })
    await bring(page, 5, 1)
    await page.getByRole('link', { name: 'Deliver' }).click()
    await page.getByText(/files to import/).waitFor()
    await page.getByRole('link', { name: 'Sober Prism' }).click()
    const question = page.getByRole('dialog', { name: 'Leave this session?' })
    await question.getByText(/still importing/).waitFor()
    await question.getByRole('button', { name: 'Stay' }).click()
    letOn()
    await page.getByText(/files to import/).waitFor({ state: 'detached', timeout: 20_000 })
    await page.getByRole('link', { name: 'Gather' }).click()
    await expect.poll(() => page.getByLabel(/^Name of track/).count()).toBe(5)
  })

  it('is taken up again when a part of the app could not be fetched once', async () => {
    const { page } = await freshPage(browser)
    let refused = 0
    await page.route(/pffft.*\.wasm$/, (route) =>
      refused++ === 0 ? route.abort() : route.continue(),
    )
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/\/gather$/)
    await bring(page, 1)
    await page.getByRole('button', { name: 'Clear list' }).waitFor()
    await page.getByRole('link', { name: 'Survey' }).click()
    await measured(page)
    expect(refused).toBeGreaterThan(1)
  })

  it('gives eleven rendered files as one zip that holds them all', async () => {
    const page = await withTracks(11, 0.1)
    await page.getByRole('link', { name: 'Deliver' }).click()
    await page.getByRole('checkbox', { name: 'The mix' }).uncheck()
    await page.getByRole('checkbox', { name: /^Each treated track/ }).check()
    const saving = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Render', exact: true }).click()
    const files = unzipSync(await bytesOf(await saving))
    expect(Object.values(files).map((f) => f.length)).toEqual(
      Array.from({ length: 11 }, () => 44 + 4800 * 6),
    )
  })
})

describe('a machine that is late', () => {
  it('has its gaps counted, and sound prepared further ahead from the next start on', async () => {
    const { page } = await freshPage(browser)
    await page.addInitScript(() => {
      // The audio clock falls behind, as it does when the audio thread is late.
      const { prototype } = BaseAudioContext
      const real = Object.getOwnPropertyDescriptor(prototype, 'currentTime')
      Object.defineProperty(prototype, 'currentTime', {
        get() {
          return 0.9 * real?.get?.call(this)
        },
      })
    })
    await page.reload()
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/\/gather$/)
    await bring(page, 1, 12)
    await page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 20_000 })
    await page.keyboard.press('Space')
    await page.getByRole('button', { name: /[3-9] dropouts/ }).waitFor({ timeout: 8000 })
    await page.keyboard.press('Space')
    await page.getByRole('button', { name: 'Play', exact: true }).waitFor()
    const position = () =>
      page.evaluate(() => {
        type Desk = { desk: { player: { positionFrames: number } } }
        return (window as unknown as { soberPrism: Desk }).soberPrism.desk.player.positionFrames
      })
    const stopped = await position()
    await page.keyboard.press('Space')
    await page.getByRole('button', { name: /buffering 0\.1 s/ }).waitFor()
    // It goes on from where it was.
    await expect.poll(position).toBeGreaterThan(stopped)
    await expect.poll(() => position()).toBeLessThan(stopped + 3 * 48000)
  })
})

describe('a session at another rate', () => {
  it.each([44100, 88200, 96000])('plays at its own speed at once: %d Hz', async (rateHz) => {
    const { page } = await freshPage(browser)
    await page.getByRole('button', { name: 'New session' }).click()
    await page.waitForURL(/\/gather$/)
    await page.getByLabel('Sample rate', { exact: true }).selectOption(`${rateHz}`)
    await page
      .getByTestId('track-files')
      .setInputFiles([noiseFile('Long.wav', 1, { rateHz, seconds: 6 })])
    await page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 20_000 })
    const { fastest, whole } = await page.evaluate(async (enough) => {
      type Player = { play(): Promise<void>; pause(): void; positionFrames: number }
      const { player } = (window as unknown as { soberPrism: { desk: { player: Player } } })
        .soberPrism.desk
      const now = () => ({ frame: player.positionFrames, seconds: performance.now() / 1000 })
      type Moment = ReturnType<typeof now>
      const speed = (from: Moment, to: Moment) =>
        (to.frame - from.frame) / (to.seconds - from.seconds)
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
      await player.play()
      while (player.positionFrames === 0) await wait(5)
      const first = now()
      let last = first
      let fastest = 0
      // A machine that stands still for a moment has others in which to show how fast it plays.
      for (let k = 0; k < 3 || (k < 9 && fastest < enough); k++) {
        await wait(500)
        const here = now()
        fastest = Math.max(fastest, speed(last, here))
        last = here
      }
      player.pause()
      return { fastest, whole: speed(first, last) }
    }, 0.85 * rateHz)
    // A machine that is late plays less, never more.
    expect(fastest / rateHz).toBeGreaterThan(0.85)
    expect(whole / rateHz).toBeLessThan(1.05)
  })
})
