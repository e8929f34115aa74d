import { type Clip, makeClip } from '@sober-prism/core/audio'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import {
  choose,
  freshPage,
  openAnnouncement,
  openDemo,
  recordFrom,
  soundSettled,
  unfold,
} from './session-page'

const RATE = 48_000
const [FROM, SECONDS] = [0.3 * RATE, 3]
/** Where both voices sound. */
const THIRDS = makeBands('third').filter((b) => b.hz > 200 && b.hz < 9000)
let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openAnnouncement(page)
  await page.getByRole('link', { name: 'Shape', exact: true }).click()
})
afterAll(() => browser.close())

const track = (name: string) => page.getByRole('button', { name, exact: true })
/** What one take sounds like by itself. */
async function alone(name: string): Promise<Clip> {
  const solo = page.getByRole('button', { name: `solo ${name}` })
  await solo.click()
  await soundSettled(page)
  const clip = makeClip(RATE, await recordFrom(page, FROM, SECONDS))
  await solo.click()
  return clip
}
/** How far two long-term spectra are apart, in dB rms over third octaves, the level taken out. */
function apart(a: Clip, b: Clip): number {
  const [x, y] = [a, b].map((clip) => longTermLevels(clip, THIRDS))
  const off = Array.from(x, (v, i) => v - y[i])
  const mean = off.reduce((s, v) => s + v, 0) / off.length
  return Math.sqrt(off.reduce((s, v) => s + (v - mean) ** 2, 0) / off.length)
}

describe('one take made to sound like the other', () => {
  let before: number
  let target: Clip

  it('sounds otherwise at first', async () => {
    target = await alone('Wheelhouse')
    before = apart(await alone('Foredeck'), target)
    expect(before).toBeGreaterThan(4)
  })

  it('is compared, and what no equaliser can match is told in words', async () => {
    await track('Foredeck').click()
    await page.getByRole('button', { name: 'Compare Foredeck with Wheelhouse' }).click()
    await page.getByText('What EQ cannot match').waitFor({ timeout: 30_000 })
    await page.getByText('It will still sound roomier.').waitFor()
  })

  it('comes near by a few bands, as loud as it was', async () => {
    const loudness = async () =>
      Number(
        (await page.getByText(/LUFS$/).first().textContent())
          ?.match(/−?[\d.]+/)?.[0]
          .replace('−', '-'),
      )
    const was = await loudness()
    await page.getByRole('button', { name: /^Apply \d+ bands?$/ }).click()
    const after = apart(await alone('Foredeck'), target)
    expect(after).toBeLessThan(0.4 * before)
    await expect.poll(async () => Math.abs((await loudness()) - was)).toBeLessThan(1.5)
    // Beside it stands another chain: none at all, and the take sounds as it did.
    await unfold(page, 'Compare chains')
    await choose(page, 'Other chain', 'No chain')
    const instead = page.getByRole('button', { name: 'Listen to the other' })
    await instead.click()
    await page.getByText(/Foredeck with no chain, −?\d+\.\d LU to match/).waitFor()
    const bare = apart(await alone('Foredeck'), target)
    expect(Math.abs(bare - before)).toBeLessThan(0.1)
    await instead.click()
    await page.getByText('As rendered').waitFor()
    await page.getByRole('button', { name: 'Undo' }).first().click()
  })

  it('comes nearer by one long filter', async () => {
    await unfold(page, 'Match')
    await page.getByRole('button', { name: 'Apply as one filter' }).click()
    await page.getByText('Match to Wheelhouse', { exact: true }).first().waitFor()
    const after = apart(await alone('Foredeck'), target)
    expect(after).toBeLessThan(0.35 * before)
    const editor = page.getByRole('group', { name: 'Match filter' })
    const amount = editor.getByRole('textbox', { name: 'Amount, %' })
    await amount.fill('0')
    await amount.press('Enter')
    const none = apart(await alone('Foredeck'), target)
    expect(Math.abs(none - before)).toBeLessThan(0.3)
  })

  it('is levelled by just so much', async () => {
    await unfold(page, 'Leveller')
    await page.getByRole('button', { name: 'Add leveller' }).click()
    await expect
      .poll(() => page.getByLabel('Reason of Leveller').inputValue(), { timeout: 20_000 })
      .toMatch(/^Max reduction 4 dB; average −\d\.\d dB$/)
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await page.getByText(/^Reducing \d\.\d dB$/).waitFor()
    await page.getByRole('button', { name: 'Pause' }).click()
    // Over time it takes no more than it was aimed at, and what that does to the loudness is told.
    const overview = page.getByRole('img', { name: /leveller reduction up to \d\.\d dB/ })
    await overview.waitFor({ timeout: 20_000 })
    const most = /up to (\d\.\d) dB/.exec((await overview.getAttribute('aria-label')) ?? '')?.[1]
    expect(Number(most)).toBeGreaterThan(2)
    expect(Number(most)).toBeLessThanOrEqual(4)
    await page.getByText(/^In −\d+\.\d, out −\d+\.\d LUFS/).waitFor()
  })

  it('gives a profile that outlives the page, and nothing of its sound', async () => {
    await unfold(page, 'Profiles')
    await page.getByRole('button', { name: 'Save profile of Foredeck' }).click()
    await page.getByLabel('Name of Foredeck').waitFor()
    await page.reload()
    await unfold(page, 'Profiles')
    await page.getByLabel('Name of Foredeck').waitFor()
    await track('Wheelhouse').click()
    await unfold(page, 'Match')
    await choose(page, 'Target', 'profile Foredeck')
    await page.getByRole('button', { name: 'Compare Wheelhouse with Foredeck' }).click()
    await page.getByRole('region', { name: 'Wheelhouse to Foredeck' }).waitFor({ timeout: 30_000 })
    const kept = await page.evaluate(async () => {
      const open = indexedDB.open('sober-prism')
      const db = await new Promise<IDBDatabase>((resolve) => {
        open.onsuccess = () => resolve(open.result)
      })
      const all = db.transaction('profiles').objectStore('profiles').getAll()
      return new Promise<number>((resolve) => {
        all.onsuccess = () => resolve(JSON.stringify(all.result).length)
      })
    })
    // Figures only: eleven seconds of sound would be a megabyte.
    expect(kept).toBeLessThan(20_000)
    expect(problems).toEqual([])
  })
})

describe('a reference on the transport', () => {
  let own: Page
  let heardOf: string[]
  let mix: Clip
  const record = async () => makeClip(RATE, await recordFrom(own, 16 * RATE, 1.5))
  beforeAll(async () => {
    ;({ page: own, problems: heardOf } = await freshPage(browser))
    await openDemo(own)
    await own.getByRole('link', { name: 'Shape', exact: true }).click()
    mix = await record()
  })

  it('plays in place of the mix, as loud as it', async () => {
    await own.getByRole('button', { name: 'Listen to Quay in place of the mix' }).click()
    await own.getByText(/Listening only: Quay at equal loudness/).waitFor({ timeout: 20_000 })
    await soundSettled(own)
    const reference = await record()
    expect(apart(reference, mix)).toBeGreaterThan(2)
    const level = (clip: Clip) =>
      10 * Math.log10(longTermLevels(clip, THIRDS).reduce((s, v) => s + 10 ** (v / 10), 0))
    expect(Math.abs(level(reference) - level(mix))).toBeLessThan(6)
  })

  it('is compared in a range, as the mix is, from a place of one’s own', async () => {
    const ranges = own.getByRole('group', { name: 'Range compared' })
    await ranges.getByRole('button', { name: 'Mids' }).click()
    await own
      .getByText(/Quay at equal loudness.*only 200 Hz to 2\.00 kHz/)
      .waitFor({ timeout: 20_000 })
    await soundSettled(own)
    const above = (clip: Clip) => {
      const levels = longTermLevels(clip, THIRDS)
      const mean = (from: number, to: number) => {
        const inside = THIRDS.flatMap(({ hz }, i) => (hz > from && hz < to ? [levels[i]] : []))
        return inside.reduce((sum, v) => sum + v, 0) / inside.length
      }
      return mean(4000, 9000) - mean(300, 1500)
    }
    expect(above(await record())).toBeLessThan(above(mix) - 30)
    // Off again, the mix is heard in the same range.
    await own.getByRole('button', { name: 'Listen to Quay in place of the mix' }).click()
    await own.getByText(/Listening only: the mix, only 200 Hz to 2\.00 kHz/).waitFor()
    await soundSettled(own)
    expect(above(await record())).toBeLessThan(above(mix) - 30)
    await ranges.getByRole('button', { name: 'All' }).click()
    await own.getByText('As rendered').waitFor()

    const place = own.getByRole('slider', { name: 'Start in Quay' })
    await place.focus()
    const before = await place.getAttribute('aria-valuenow')
    await own.keyboard.press('Home')
    await expect.poll(() => place.getAttribute('aria-valuenow')).toBe('0')
    expect(before).not.toBe('0')
    await own.getByRole('button', { name: 'Listen to Quay in place of the mix' }).click()
    await own.getByText(/Listening only: Quay at equal loudness/).waitFor({ timeout: 20_000 })
  })

  it('is looped over a passage of its own', async () => {
    const hear = own.getByRole('button', { name: 'Listen to Quay in place of the mix' })
    await hear.click()
    await own.getByText('As rendered').waitFor()
    const at = () =>
      own.evaluate(() => {
        type Player = { readonly positionFrames: number; seek(frame: number): void }
        const { player } = (window as unknown as { soberPrism: { desk: { player: Player } } })
          .soberPrism.desk
        return player.positionFrames
      })
    const length = own.getByRole('textbox', { name: 'Length in Quay' })
    await length.fill('1.5')
    await length.press('Enter')
    await recordFrom(own, RATE, 0.1)
    await hear.click()
    await own.getByText(/Listening only: Quay at equal loudness/).waitFor({ timeout: 20_000 })
    // One was at a place that is not in the passage: the reference begins.
    const [left] = await recordFrom(own, await at(), 3.2)
    const turn = 1.5 * RATE
    let [same, all] = [0, 0]
    for (let i = 0.3 * RATE; i < 1.4 * RATE; i++) {
      same += (left[i] - left[i + turn]) ** 2
      all += left[i] ** 2
    }
    expect(all).toBeGreaterThan(1)
    expect(same / all).toBeLessThan(1e-6)
    await own.getByRole('button', { name: 'Quay as long as the passage' }).click()
    await expect.poll(() => length.inputValue()).not.toBe('1.5')
  })

  it('gives way to the next one, and to the mix, by a key', async () => {
    await own.keyboard.press('r')
    await own.getByText(/Listening only: Lantern at equal loudness/).waitFor({ timeout: 20_000 })
    await own.keyboard.press('r')
    await own.getByText('As rendered').waitFor()
    await soundSettled(own)
    expect(apart(await record(), mix)).toBeLessThan(0.2)
    expect(heardOf).toEqual([])
  })
})
