import { makeClip } from '@sober-prism/core/audio'
import { longTermLevels } from '@sober-prism/core/spectrum'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { choose, freshPage, openDemo, recordFrom } from './session-page'

const RATE = 48000
const [FROM, SECONDS] = [15 * RATE, 1.2]
let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await openDemo(page)
  await page.getByRole('link', { name: 'Clean', exact: true }).click()
  await page.getByRole('toolbar', { name: 'Hunt' }).waitFor()
  await track('Singer').click()
  await page.getByRole('button', { name: 'solo Singer' }).click()
})
afterAll(() => browser.close())

const track = (name: string) => page.getByRole('button', { name, exact: true })
const flag = (letter: string) => page.getByRole('slider', { name: `Band ${letter}` })
const flagText = async (letter: string) => (await flag(letter).getAttribute('aria-valuetext')) ?? ''
const heard = async () => makeClip(RATE, await recordFrom(page, FROM, SECONDS))
type Heard = Awaited<ReturnType<typeof heard>>
const levelAround = (clip: Heard, hz: number) =>
  longTermLevels(clip, [{ hz, fromHz: hz / 1.01, toHz: hz * 1.01 }])[0]
const sheetBox = async () => {
  const box = await page.getByTestId('sheet').boundingBox()
  if (!box) throw new Error('The sheet is not on the page.')
  return box
}
const undoAll = async () => {
  const undo = page.getByRole('button', { name: 'Undo', exact: true }).first()
  while (await undo.isEnabled()) await undo.click()
}

describe('several bands', () => {
  it('are chosen, dragged together, copied to another track, and undone as they were done', async () => {
    const box = await sheetBox()
    await page.mouse.dblclick(box.x + 0.4 * box.width, box.y + 0.6 * box.height)
    await flag('a').waitFor()
    await page.mouse.dblclick(box.x + 0.7 * box.width, box.y + 0.6 * box.height)
    await flag('b').waitFor()
    await flag('a').click({ modifiers: ['Control'] })
    await page.getByText('and 1 more').waitFor()
    const before = [await flagText('a'), await flagText('b')]
    const grip = await flag('b').boundingBox()
    if (!grip) throw new Error('The flag is not on the page.')
    const [x, y] = [grip.x + grip.width / 2, grip.y + 8]
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.mouse.move(x, y + 30, { steps: 4 })
    await page.mouse.up()
    const gain = (text: string) => Number(/([−\d.]+) dB/.exec(text)?.[1].replace('−', '-'))
    await expect.poll(async () => gain(await flagText('b'))).toBeLessThan(gain(before[1]) - 1)
    const moved = gain(await flagText('b')) - gain(before[1])
    expect(gain(await flagText('a')) - gain(before[0])).toBeCloseTo(moved, 1)
    await page.keyboard.press('Control+c')
    await track('Accordion').click()
    await page.keyboard.press('Control+v')
    await flag('b').waitFor()
    expect(gain(await flagText('a'))).toBeCloseTo(gain(before[0]) + moved, 1)
    // Pasting is one step, the drag another.
    const undo = page.getByRole('button', { name: 'Undo', exact: true }).first()
    await undo.click()
    await flag('a').waitFor({ state: 'detached' })
    await track('Singer').click()
    await undo.click()
    await expect.poll(() => flagText('a')).toBe(before[0])
    expect(await flagText('b')).toBe(before[1])
    await undoAll()
  })
})

describe('needles', () => {
  const third = 3 * 440
  let plain: Heard

  it('are set on the harmonic series of a typed note', async () => {
    plain = await heard()
    await page.getByRole('button', { name: 'Add a treatment to Clean' }).click()
    await page.getByRole('menuitem', { name: 'Drawn curve' }).click()
    await choose(page, 'Interpolation', 'Straight lines')
    const taps = page.getByLabel('Length, taps')
    await taps.fill('16384')
    await taps.press('Enter')
    await page.getByRole('button', { name: 'Notches…' }).click()
    const dialog = page.getByRole('dialog', { name: 'Notches' })
    await dialog.getByLabel('Tone or note, Hz').fill('A4')
    await dialog.getByLabel('Tone or note, Hz').press('Enter')
    await dialog.getByLabel('Harmonics').fill('10')
    await dialog.getByLabel('Harmonics').press('Enter')
    await dialog.getByRole('button', { name: 'Add 10 notches' }).click()
    await page
      .getByText(/\d points, \d+ taps/)
      .first()
      .waitFor()
    await page
      .getByText(/latency .* ms/)
      .first()
      .waitFor()
  })

  it('take the series out of what is heard, and nothing beside it', async () => {
    // The long filter is designed in a worker.
    await expect
      .poll(
        async () => {
          const cut = await heard()
          const bin = (clip: Heard, hz: number) =>
            longTermLevels(clip, [{ hz, fromHz: hz - 2, toHz: hz + 2 }])[0]
          return bin(cut, third) - bin(plain, third)
        },
        { timeout: 8000 },
      )
      .toBeLessThan(-15)
    const cut = await heard()
    for (const away of [1.06, 0.94]) {
      expect(
        Math.abs(levelAround(cut, third * away) - levelAround(plain, third * away)),
      ).toBeLessThan(0.5)
    }
    await undoAll()
  })
})

describe('the picture over time', () => {
  it('has a region that is heard alone in a loop, and becomes a bell', async () => {
    await choose(page, 'Over time', 'Spectrogram before chain')
    const plot = page.getByRole('application')
    await page.getByText(/Point to read/).waitFor()
    const box = await plot.boundingBox()
    if (!box) throw new Error('The picture is not on the page.')
    await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.1 * box.height)
    await page.mouse.wheel(0, -100)
    await page.getByRole('button', { name: 'Whole passage' }).click()
    await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.1 * box.height)
    await page.mouse.down()
    await page.mouse.move(box.x + 0.6 * box.width, box.y + 0.3 * box.height, { steps: 3 })
    await page.mouse.up()
    await page.getByRole('button', { name: 'Play it alone' }).click()
    await page.getByText(/^Listening only: .*one region/).waitFor()
    const looped = await page.evaluate(async () => {
      interface Shown {
        soberPrism: { desk: { player: { positionFrames: number } } }
      }
      const { player } = (window as unknown as Shown).soberPrism.desk
      const seen: number[] = []
      for (let i = 0; i < 30; i++) {
        seen.push(player.positionFrames / 48000)
        await new Promise((resolve) => setTimeout(resolve, 100))
      }
      return [Math.min(...seen), Math.max(...seen)]
    })
    // The passage is 24 s long, from 14 s on: the region goes from 16.4 to 21.2 s.
    expect(looped[0]).toBeGreaterThan(16)
    expect(looped[1]).toBeLessThan(21.6)
    await page.keyboard.press('0')
    await page.getByText('As rendered').waitFor()
    await page.getByRole('button', { name: 'solo Singer' }).click()
    await page.getByRole('button', { name: 'Add bell' }).click()
    await expect.poll(() => flagText('a')).toMatch(/^Bell, .*−6\.0 dB/)
    await undoAll()
    await choose(page, 'Over time', 'No spectrogram')
  })
})

describe('the ruler', () => {
  it('is zoomed by the wheel on every picture at once, dragged along, and whole again by a key', async () => {
    const box = await sheetBox()
    const ruler = await page.getByRole('slider', { name: 'Plumb line, frequency' }).boundingBox()
    if (!ruler) throw new Error('The ruler is not on the page.')
    const pointed = async (share: number) => {
      await page.mouse.move(box.x + share * box.width, box.y + 0.8 * box.height)
      const slider = page.getByRole('slider', { name: 'Plumb line, frequency' })
      return Number(await slider.getAttribute('aria-valuenow'))
    }
    await page.mouse.dblclick(box.x + 0.2 * box.width, box.y + 0.6 * box.height)
    await page.mouse.dblclick(box.x + 0.7 * box.width, box.y + 0.6 * box.height)
    await flag('b').waitFor()
    const before = { hz: await pointed(0.7), x: (await flag('b').boundingBox())?.x ?? 0 }
    await page.mouse.move(box.x + 0.7 * box.width, ruler.y + ruler.height / 2)
    for (let i = 0; i < 6; i++) await page.mouse.wheel(0, -100)
    // What is pointed at stays where it is; what is not looked at has no flag.
    await flag('a').waitFor({ state: 'detached' })
    expect(await pointed(0.7)).toBeCloseTo(before.hz, -2)
    expect(Math.abs(((await flag('b').boundingBox())?.x ?? 0) - before.x)).toBeLessThan(2)
    const [low, high] = [await pointed(0.1), await pointed(0.9)]
    expect(Math.log2(high / low)).toBeLessThan(3)
    await page.mouse.move(ruler.x + 0.5 * ruler.width, ruler.y + ruler.height / 2)
    await page.mouse.down()
    await page.mouse.move(ruler.x + 0.7 * ruler.width, ruler.y + ruler.height / 2, { steps: 3 })
    await page.mouse.up()
    expect(await pointed(0.9)).toBeLessThan(high / 1.3)
    await page.keyboard.press('w')
    await flag('a').waitFor()
    expect(await pointed(0.7)).toBe(before.hz)
    await undoAll()
  })
})

describe('reading the chain', () => {
  it('tells what two microphones gain by adding up, as it is measured', async () => {
    await track('Frame drum near').click()
    await choose(page, 'Graph below', 'Sum with a track')
    await choose(page, 'Other track', 'F Frame drum far')
    const text = page.getByText(/dB in all \(measured/)
    await text.waitFor()
    const figures = (
      /^(\S+) dB in all \(measured (\S+)\)/.exec((await text.textContent()) ?? '') ?? []
    )
      .slice(1)
      .map((v) => Number(v.replace('−', '-')))
    expect(Math.abs(figures[0] - figures[1])).toBeLessThan(0.3)
    await choose(page, 'Graph below', 'No graph below')
  })
})

describe('presets', () => {
  it('are kept, and are there after the page is loaded again', async () => {
    await track('Singer').click()
    await page.getByRole('button', { name: 'Presets' }).click()
    const row = page.getByRole('listitem').filter({ hasText: 'Boxy' })
    await row.getByRole('button', { name: 'Add' }).click()
    await expect.poll(() => flagText('a')).toMatch(/^Bell, 350 Hz, −3\.0 dB/)
    await page.getByRole('button', { name: 'Presets' }).click()
    await page.getByLabel('Name', { exact: true }).fill('Less of the car deck')
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByText('Less of the car deck', { exact: true }).waitFor()
    await page.reload()
    await page.getByRole('button', { name: 'Presets' }).click()
    const mine = page.getByRole('listitem').filter({ hasText: 'Less of the car deck' })
    await mine.getByRole('button', { name: 'Delete' }).click()
    await mine.waitFor({ state: 'detached' })
    await page.getByRole('button', { name: 'Close', exact: true }).last().click()
  })
})

describe('eyes closed', () => {
  it('one hunts, cuts and compares by keys and ear, and the next press shows again', async () => {
    await track('Singer').click()
    await page.keyboard.press('e')
    const canvas = page.getByTestId('sheet').locator('canvas').first()
    await expect.poll(() => canvas.evaluate((c) => getComputedStyle(c).visibility)).toBe('hidden')
    const hunt = page.getByRole('button', { name: 'Hunt by ear' })
    // The page was loaded anew: the track is measured first.
    await expect.poll(() => hunt.isEnabled(), { timeout: 30_000 }).toBe(true)
    await hunt.focus()
    await hunt.press('Enter')
    const layer = page.getByRole('slider', { name: 'Boost of the hunt' })
    await expect.poll(() => layer.getAttribute('aria-valuetext')).toMatch(/boosted .* dB/)
    await layer.press('ArrowLeft')
    await layer.press('Enter')
    await layer.waitFor({ state: 'detached' })
    await page.keyboard.press('f')
    await page.getByText(/^Listening only: .*everything bypassed/).waitFor()
    await page.keyboard.press('f')
    await page.keyboard.press('e')
    await expect.poll(() => canvas.evaluate((c) => getComputedStyle(c).visibility)).toBe('visible')
    expect(await page.getByRole('slider', { name: /^Band / }).count()).toBeGreaterThan(0)
  })

  it('reports nothing wrong on the way', () => {
    expect(problems).toEqual([])
  })
})
