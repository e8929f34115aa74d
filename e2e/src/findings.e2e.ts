import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage, measured, openDemo } from './session-page'

let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openDemo(page)
})
afterAll(() => browser.close())

const cards = () => page.getByRole('article').filter({ hasNotText: /measured now/ })
const titles = () => cards().getByRole('heading').allTextContents()
/** What covers the lead: it has moves to amend. */
const cover = () => cards().filter({ hasText: 'Accordion masks Singer' })
const heard = async (name: string) =>
  Number(
    /(\d+) % heard/.exec(
      (await page
        .getByRole('img', { name: new RegExp(`^Spectrum of ${name},`) })
        .getAttribute('aria-label')) ?? '',
    )?.[1],
  )

describe('findings', () => {
  it('offers what is worth a move, worst first, and lists on request all that was measured', async () => {
    const offered = await titles()
    expect(offered.length).toBeLessThanOrEqual(9)
    for (const title of [
      'Accordion masks Singer',
      /^Resonance in Singer at 2\.7\d kHz/,
      'Frame drum near and Frame drum far cancel',
      /^Wide low end in Glass harmonica below 1\d\d Hz$/,
      'Rumble below Singer',
      'Build-up in the low mids',
      'The top of the mix is too weak',
    ]) {
      const isIt = (t: string) => (typeof title === 'string' ? t === title : title.test(t))
      expect(offered.some(isIt), String(title)).toBe(true)
    }
    const sones = (await cards().locator('[title^="Audible harm"]').allTextContents()).map(
      Number.parseFloat,
    )
    expect(sones).toEqual([...sones].sort((a, b) => b - a))
    await page.getByRole('button', { name: /Show all that was measured/ }).click()
    const all = await titles()
    expect(all.length).toBeGreaterThan(offered.length)
    // What a move would win between these two nobody would hear.
    expect(all).toContain('Frame drum near masks Tuba')
    await page.getByRole('button', { name: /Hide all that was measured/ }).click()
    expect(await titles()).toEqual(offered)
  })

  it('can be heard three ways at equal loudness, and left again', async () => {
    const card = cover()
    await card.getByRole('button', { name: /Accordion masks Singer/ }).click()
    await card.getByRole('button', { name: 'Listen' }).click()
    const ways = card.getByRole('group', { name: /equal loudness/ })
    await ways.getByRole('button', { name: 'With move', exact: true }).click()
    const gain = () =>
      page.evaluate(() => {
        type Heard = { gainDb: number | null; rendition: { kind: string; mode?: string } }
        type Desk = { heard: { value: Heard | null } }
        return (window as unknown as { soberPrism: { desk: Desk } }).soberPrism.desk.heard.value
      })
    await expect
      .poll(async () => (await gain())?.gainDb ?? null, { timeout: 20_000 })
      .not.toBeNull()
    expect((await gain())?.rendition).toMatchObject({ kind: 'finding', mode: 'moves' })
    // Cutting the accordion makes the mix softer: that is made up for.
    expect((await gain())?.gainDb).toBeGreaterThan(0.05)
    await ways.getByRole('button', { name: 'Stop' }).click()
    await expect.poll(() => gain()).toBeNull()
    await card.getByRole('button', { name: 'Listen' }).waitFor()
    await page.getByRole('button', { name: 'Pause' }).click()
  })

  it('can be amended: other values, another prediction, and these are what is made', async () => {
    const card = cover()
    await card.getByRole('button', { name: 'Adjust' }).click()
    const predicted = card.locator('p b')
    const after = async () =>
      Number(/→ ([\d.]+) %/.exec((await predicted.textContent()) ?? '')?.[1])
    const proposed = await after()
    const gain = card.getByRole('textbox', { name: 'Gain, dB' }).first()
    const was = (await gain.inputValue()).replace('−', '-')
    await gain.fill(String(Number(was) - 5))
    await gain.press('Enter')
    await expect.poll(after, { timeout: 20_000 }).toBeGreaterThan(proposed)
    await gain.fill('far too deep')
    await gain.press('Enter')
    await page.getByText(/Enter a value from/).waitFor()
    await card.getByRole('button', { name: 'Apply' }).click()
    const made = page
      .getByRole('article')
      .filter({ hasText: /measured now/ })
      .first()
    await made.getByText(`, −${5 - Number(was)}`, { exact: false }).waitFor()
    await measured(page)
    await page.keyboard.press('Control+z')
    await measured(page)
    expect(await titles()).toContain('Accordion masks Singer')
  })

  it('are dismissed with a reason until the sound changes', async () => {
    const ring = cards().filter({ hasText: 'Resonance in Singer' })
    await ring.getByRole('button', { name: /Resonance in Singer/ }).click()
    await ring.getByRole('button', { name: 'Dismiss' }).click()
    await ring.getByLabel('Reason').fill('the song is about a bell')
    await ring.getByRole('button', { name: 'Dismiss until the sound changes' }).click()
    await expect.poll(() => ring.count()).toBe(0)
    // A cut on the singer makes another sound of it.
    await page.getByRole('button', { name: 'Singer', exact: true }).click()
    await page.getByRole('button', { name: 'Other band' }).click()
    await page.getByRole('menuitem', { name: 'Low cut' }).click()
    await measured(page)
    await expect.poll(() => ring.count(), { timeout: 30_000 }).toBe(1)
    await page.keyboard.press('Control+z')
    await measured(page)
    await expect.poll(() => ring.count(), { timeout: 30_000 }).toBe(0)
    await page.getByRole('button', { name: 'Show again' }).click()
    await measured(page)
  })

  it('line two microphones up in one step, and measure again that they no longer cancel', async () => {
    const pair = cards().filter({ hasText: 'cancel' })
    await pair.getByRole('button', { name: /cancel/ }).click()
    const text = (await pair.textContent()) ?? ''
    const [, before, after] = /: (\d\.\d) dB → (\d\.\d) dB/.exec(text) ?? []
    expect(Number(after)).toBeLessThan(Number(before))
    await pair.getByRole('button', { name: 'Apply' }).click()
    await measured(page)
    const made = page.getByRole('article').filter({ hasText: /Frame drum far are summed: was/ })
    const left = /measured now, with all moves, ([−\d.]+) dB/.exec((await made.textContent()) ?? '')
    expect(Math.abs(Number(left?.[1].replace('−', '-')) - Number(after))).toBeLessThan(0.6)
    await page.keyboard.press('Control+z')
    await measured(page)
  })
})

describe('who covers whom', () => {
  it('adds up: what a track loses to all and what is heard of it are all of it', async () => {
    await page.getByRole('tab', { name: 'Masking' }).click()
    const rows = page.getByRole('tabpanel').locator('tbody tr')
    await expect.poll(() => rows.count()).toBe(9)
    const cells = await rows.first().locator('td').allTextContents()
    const figures = cells.map((text) => Number(text) || 0)
    // At the end of a row stands what is heard, the same as beside the track.
    expect(figures.at(-1)).toBe(await heard('Singer'))
    expect(Math.abs(figures.reduce((sum, v) => sum + v, 0) - 100)).toBeLessThan(6)
    await rows.first().locator('td').nth(2).hover()
    await page.getByText(/^Singer: \d+\.\d % masked by Accordion\.$/).waitFor()
  })

  it('is read with the arrow keys', async () => {
    const table = page.getByRole('table')
    await table.locator('td[tabindex="0"]').focus()
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('ArrowDown')
    await page.getByText(/^Accordion: [\d.]+ % masked by Second singer\.$/).waitFor()
    await page.keyboard.press('ArrowLeft')
    await page.getByText(/^Accordion: [\d.]+ % masked by Singer\.$/).waitFor()
    await page.keyboard.press('ArrowUp')
    await page.keyboard.press('ArrowUp')
    await page.keyboard.press('ArrowUp')
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).toBe(
      'Singer',
    )
  })

  it('follows the fold to mono, the level of listening and the leads', async () => {
    const before = await heard('Glass harmonica')
    await page.keyboard.press('o')
    await page.getByText('Measured over the passage, in mono').waitFor({ timeout: 30_000 })
    await page.keyboard.press('o')
    await page.getByText(/^Measured over the passage$/).waitFor({ timeout: 30_000 })
    await expect.poll(() => heard('Glass harmonica')).toBe(before)

    const deck = await heard('Singer')
    const level = page.getByRole('textbox', { name: /Listening level/ })
    await level.fill('58')
    await level.press('Enter')
    await measured(page)
    await expect.poll(() => heard('Singer'), { timeout: 30_000 }).not.toBe(deck)
    await level.fill('73')
    await level.press('Enter')
    await measured(page)

    await page.getByRole('tab', { name: /^Findings/ }).click()
    // A lead is not asked to yield: it leaves the pile-up's list.
    const piled = async () =>
      (await cards().filter({ hasText: 'Build-up' }).allTextContents()).join()
    await expect.poll(() => piled()).toContain('Second singer')
    await page.getByRole('button', { name: 'Second singer leads' }).click()
    await measured(page)
    await expect.poll(piled, { timeout: 30_000 }).not.toContain('Second singer')
    await page.getByRole('button', { name: 'Second singer leads' }).click()
    await measured(page)
  })
})

describe('the plan', () => {
  it('wins the singer back move by move, and any beginning of it can be made in one step', async () => {
    const before = await heard('Singer')
    await page.getByRole('tab', { name: 'Plan' }).click()
    await page.getByRole('button', { name: 'Plan moves' }).click()
    const count = page.getByRole('slider', { name: 'Moves to apply' })
    await count.waitFor({ timeout: 60_000 })
    // In the order of work; leads are raised for who asks for it.
    const groups = page.getByRole('tabpanel').getByRole('region')
    const names = await groups.evaluateAll((all) => all.map((g) => g.getAttribute('aria-label')))
    expect(names[0]).toBe('Alignment and mono low end')
    expect(names.at(-1)).toBe('Boosts of leads')
    await page.getByRole('checkbox', { name: 'Boosts of leads' }).click()
    const lines = page
      .getByRole('tabpanel')
      .locator('[aria-label="Room for the leads"] li, [aria-label="Boosts of leads"] li')
    await expect.poll(() => lines.count(), { timeout: 30_000 }).toBeGreaterThan(1)
    const shares = (await lines.locator('p:last-child').allTextContents()).map((t) =>
      Number(/heard ([\d.]+) %/.exec(t)?.[1]),
    )
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    await page.getByRole('button', { name: /^Apply the first/ }).click()
    await measured(page)
    await expect.poll(() => heard('Singer'), { timeout: 30_000 }).toBeGreaterThan(before + 1)
    expect(Math.abs((await heard('Singer')) - shares[shares.length - 1])).toBeLessThan(2)
    await page.keyboard.press('Control+z')
    await measured(page)
    await expect.poll(() => heard('Singer'), { timeout: 30_000 }).toBe(before)
  })

  it('reported no error in all of this', () => {
    expect(problems).toEqual([])
  })
})
