import { zipSync } from 'fflate'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { verbatimFlac } from '../../cli/src/flac-bytes'
import { launch } from './browser'
import { bytesOf, freshPage, measured } from './session-page'
import { file, noiseFile, type TestFile } from './sounds'

let browser: Browser
beforeAll(async () => {
  browser = await launch()
})
afterAll(() => browser.close())

async function newSession(): Promise<{ page: Page; problems: string[] }> {
  const opened = await freshPage(browser)
  await opened.page.getByRole('button', { name: 'New session' }).click()
  await opened.page.waitForURL(/\/gather$/)
  return opened
}

const give = (page: Page, ...files: TestFile[]) =>
  page.getByTestId('track-files').setInputFiles(files)
const settled = (page: Page) =>
  page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 60_000 })
const trackNames = (page: Page) =>
  page
    .getByLabel(/^Name of track/)
    .evaluateAll((fields) => fields.map((f) => (f as HTMLInputElement).value))

describe('bringing files in', () => {
  it('takes good files, and says of each bad one what is wrong', async () => {
    const { page, problems } = await newSession()
    const good = noiseFile('Good one.wav', 1)
    const nan = noiseFile('Not numbers.wav', 2, { bits: '32f' })
    nan.buffer.writeUInt32LE(0x7fc00000, 44 + 400)
    const header = Buffer.from(good.buffer)
    header.writeUInt16LE(77, 20)
    await give(
      page,
      good,
      file('Cut short.wav', good.buffer.subarray(0, 5000)),
      file('Wrong header.wav', header),
      file('Zero length.wav', Buffer.from(good.buffer.subarray(0, 44)).fill(0, 40, 44)),
      file('Nothing.wav', new Uint8Array()),
      nan,
      file('Notes.txt', new TextEncoder().encode('This is a shopping list, not audio.')),
      noiseFile('Other rate.wav', 3, { rateHz: 44100, channels: 1, bits: 24 }),
      file(
        'Packed.flac',
        verbatimFlac(Int16Array.from({ length: 44100 }, (_, i) => 9000 * Math.sin(i / 9))),
      ),
    )
    await settled(page)
    const said = async (name: string) =>
      page
        .getByLabel('Importing files')
        .getByRole('listitem')
        .filter({ hasText: name })
        .textContent()
    await expect.poll(() => said('Good one')).toContain('stereo, 48000 Hz')
    await expect.poll(() => said('Other rate')).toContain('mono, 44100 Hz')
    await expect.poll(() => said('Packed')).toContain('mono, 44100 Hz')
    await expect.poll(() => said('Cut short')).toContain('cut short')
    await expect.poll(() => said('Wrong header')).toContain('not accepted')
    await expect.poll(() => said('Zero length')).toContain('length is zero')
    await expect.poll(() => said('Nothing')).toContain('empty')
    await expect.poll(() => said('Not numbers')).toContain('not a number')
    await expect.poll(() => said('Notes')).toContain('not audio that this browser can read')
    await expect.poll(() => trackNames(page)).toEqual(['Good one', 'Other rate', 'Packed'])
    await page.getByRole('link', { name: 'Survey' }).click()
    await measured(page)
    // The browser itself reports what its decoder cannot read; nothing else may be amiss.
    expect(problems.filter((p) => !/decode/i.test(p))).toEqual([])
  })

  it('opens a zip, and brings everything back after a reload', async () => {
    const { page } = await newSession()
    const entry = (seed: number) => new Uint8Array(noiseFile('x', seed, { seconds: 1 }).buffer)
    const zip = zipSync({
      'stems/Kick.wav': entry(1),
      'stems/Bass.wav': entry(2),
      '__MACOSX/stems/._Kick.wav': new Uint8Array(10),
      'read me.txt': new Uint8Array(10),
    })
    await give(page, file('Stems.zip', zip))
    await settled(page)
    await page.getByLabel('Session', { exact: true }).fill('My piece')
    await page.getByLabel('Mute Kick').click()
    await page.reload()
    await page.getByLabel('Name of track A').waitFor()
    expect((await trackNames(page)).sort()).toEqual(['Bass', 'Kick'])
    await expect
      .poll(() => page.getByLabel('Session', { exact: true }).inputValue())
      .toBe('My piece')
    await expect.poll(() => page.getByLabel('Mute Kick').getAttribute('aria-pressed')).toBe('true')
  })

  it('places time-stamped files where they belong', async () => {
    const { page } = await newSession()
    const stamped = (name: string, seconds: number, seed: number) => {
      const plain = noiseFile(name, seed, { seconds: 1 }).buffer
      const bext = Buffer.alloc(8 + 602)
      bext.write('bext', 0)
      bext.writeUInt32LE(602, 4)
      bext.writeBigUInt64LE(BigInt(seconds * 48000), 8 + 338)
      return file(name, Buffer.concat([plain.subarray(0, 12), bext, plain.subarray(12)]))
    }
    await give(page, stamped('Later.wav', 36005, 1), stamped('Earlier.wav', 36000, 2))
    await settled(page)
    const starts = await page
      .getByRole('table', { name: 'Tracks' })
      .locator('td[title^="Starts"]')
      .evaluateAll((cells) => cells.map((c) => c.getAttribute('title')))
    expect(starts.sort()).toEqual(['Starts at 5.000 s', 'Starts with the session'])
  })

  it('reorders tracks with the keyboard', async () => {
    const { page } = await newSession()
    await give(
      page,
      ...['One', 'Two', 'Three'].map((n, i) => noiseFile(`${n}.wav`, i, { seconds: 1 })),
    )
    await settled(page)
    const order = await trackNames(page)
    expect(order).toEqual(['One', 'Two', 'Three'])
    await page.getByRole('button', { name: new RegExp(`^Move ${order[0]}:`) }).focus()
    await page.keyboard.press('Space')
    await page.getByText(/at place 1 of 3/).waitFor({ state: 'attached' })
    await page.keyboard.press('ArrowDown')
    await page.getByText(/at place 2 of 3/).waitFor({ state: 'attached' })
    await page.keyboard.press('Space')
    await expect.poll(() => trackNames(page)).toEqual([order[1], order[0], order[2]])
  })

  it('says when storage is refused, and loses nothing that is stored', async () => {
    const { page } = await newSession()
    await give(page, noiseFile('Kept.wav', 1))
    await settled(page)
    await page.getByLabel('Name of track A').fill('Kept and renamed')
    await page.reload()
    await expect.poll(() => trackNames(page)).toEqual(['Kept and renamed'])
    // Every write from now on fails, in the page and in its workers, as on a full disk.
    const full =
      'globalThis.realPut = IDBObjectStore.prototype.put; IDBObjectStore.prototype.put = () => { throw new DOMException("full", "QuotaExceededError") };\n'
    await page.evaluate(full)
    await page.route(/files\.worker.*\.js$/, async (route) => {
      const response = await route.fetch()
      await route.fulfill({ response, body: full + (await response.text()) })
    })
    await give(page, noiseFile('Too much.wav', 2))
    await settled(page)
    expect(
      await page.getByLabel('Importing files').locator('li[data-state="failed"]').textContent(),
    ).toContain('storage is full')
    await page.getByLabel('Name of track A').fill('Only on the screen')
    await page.getByRole('alert').getByText('Not saved.').waitFor()
    // Made room again: what waited is stored by itself.
    await page.evaluate('IDBObjectStore.prototype.put = realPut')
    await page.getByRole('alert').getByText('Not saved.').waitFor({ state: 'detached' })
    await page.reload()
    await page.getByLabel('Name of track A').waitFor()
    await expect.poll(() => trackNames(page)).toEqual(['Only on the screen'])
    await page.getByRole('link', { name: 'Survey' }).click()
    await measured(page)
  })

  it('cancels what is still coming in and keeps what has arrived', async () => {
    const { page } = await newSession()
    const many = Array.from({ length: 12 }, (_, i) =>
      noiseFile(`Long ${i}.wav`, i, { rateHz: 44100, seconds: 10 }),
    )
    await give(page, ...many)
    await page
      .getByText(/^stereo, 44100/)
      .first()
      .waitFor()
    await page.getByRole('button', { name: 'Cancel remaining' }).click()
    await settled(page)
    const arrived = await page.locator('li[data-state="done"]').count()
    const cancelled = await page.locator('li[data-state="cancelled"]').count()
    expect(arrived).toBeGreaterThan(0)
    expect(cancelled).toBeGreaterThan(0)
    expect(arrived + cancelled).toBe(12)
    await expect.poll(() => trackNames(page)).toHaveLength(arrived)
  })
})

describe('sessions', () => {
  it('saves a session file that opens again, whole, beside the first', async () => {
    const { page, problems } = await newSession()
    await give(page, noiseFile('Voice.wav', 1), noiseFile('Organ.wav', 2))
    await settled(page)
    await page.getByLabel('Session', { exact: true }).fill('To carry')
    await page.getByRole('link', { name: 'Survey' }).click()
    await page.getByRole('button', { name: 'Bell', exact: true }).click()
    await page.getByRole('textbox', { name: 'Gain, dB' }).fill('-4.5')
    await page.getByRole('textbox', { name: 'Gain, dB' }).press('Enter')
    await page.getByRole('link', { name: 'Deliver' }).click()
    const saving = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Export with audio' }).click()
    const bytes = await bytesOf(await saving)
    await page.getByRole('link', { name: 'Sober Prism' }).click()
    await page.getByLabel('Session file').setInputFiles(file('To carry.prism', bytes))
    await page.waitForURL(/\/survey$/)
    await measured(page)
    await page.getByRole('button', { name: 'Mix', exact: true }).click()
    await page.getByRole('slider', { name: 'Band a' }).waitFor()
    expect(
      await page.getByRole('slider', { name: 'Band a' }).getAttribute('aria-valuetext'),
    ).toContain('−4.5 dB')
    await page.getByRole('link', { name: 'Sober Prism' }).click()
    await expect.poll(() => page.getByRole('link', { name: 'To carry' }).count()).toBe(2)

    // A damaged file is refused in a sentence; deleting can be undone.
    bytes.fill(0, bytes.length - 400)
    await page.getByLabel('Session file').setInputFiles(file('Broken.prism', bytes))
    await page
      .getByRole('alert')
      .getByText(/cannot be unpacked/)
      .waitFor()
    await page.getByRole('button', { name: 'Delete To carry' }).first().click()
    await expect.poll(() => page.getByRole('link', { name: 'To carry' }).count()).toBe(1)
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(() => page.getByRole('link', { name: 'To carry' }).count()).toBe(2)
    expect(problems).toEqual([])
  })
})
