import { makeClip, writeWav } from '@sober-prism/core/audio'
import { blindOrder, chanceOfGuessing } from '@sober-prism/core/blind-test'
import { LoudnessMeter } from '@sober-prism/core/loudness'
import type { Browser, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { clickRatio } from '../../core/src/testing/clicks'
import { launch } from './browser'
import { freshPage, recordFrom } from './session-page'
import { file } from './sounds'

const RATE = 48_000
const LOW_HZ = 220
/** A steady tone, that fades in and out. */
function toneFile(name: string, hz: number, seconds: number) {
  const samples = Float32Array.from({ length: seconds * RATE }, (_, i) => {
    const edge = Math.min(1, i / 2400, (seconds * RATE - i) / 2400)
    return 0.1 * edge * Math.sin((2 * Math.PI * hz * i) / RATE)
  })
  return file(name, writeWav(makeClip(RATE, [samples]), 24))
}
let browser: Browser
let page: Page
let problems: string[]
beforeAll(async () => {
  browser = await launch()
  ;({ page, problems } = await freshPage(browser))
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/\/gather$/)
  const files = [toneFile('Low.wav', LOW_HZ, 8), toneFile('High.wav', 1870, 8)]
  await page.getByTestId('track-files').setInputFiles(files)
  await page.getByRole('button', { name: 'Clear list' }).waitFor({ timeout: 30_000 })
  await page.getByRole('link', { name: 'Check', exact: true }).click()
})
afterAll(() => browser.close())

const keep = () =>
  page.getByRole('button', { name: 'Keep what stands as a new variation' }).press('Enter')
const fader = (name: string) => page.getByRole('slider', { name: `Fader of ${name}, dB` })
const heardNow = () => page.getByText(/^Listening only: /)
const loudness = async () => {
  const channels = await recordFrom(page, RATE, 0.8)
  const meter = new LoudnessMeter(RATE, 2)
  meter.add(channels.map((c) => c.subarray(0.2 * RATE)))
  return meter.read().integratedLufs ?? Number.NEGATIVE_INFINITY
}

/** Phase of the low tone in a stretch, in radians. */
function phaseOf(signal: Float32Array, from: number, frames: number): number {
  let [re, im] = [0, 0]
  for (let i = from; i < from + frames; i++) {
    const at = (2 * Math.PI * LOW_HZ * i) / RATE
    re += signal[i] * Math.cos(at)
    im += signal[i] * Math.sin(at)
  }
  return Math.atan2(im, re)
}

describe('three variations by keys alone', () => {
  it('are kept, and worked in', async () => {
    await keep()
    await page.getByRole('textbox', { name: 'Name of variation 1' }).waitFor()
    await keep()
    await page.getByRole('textbox', { name: 'Name of variation 2' }).waitFor()
    await fader('Low').focus()
    for (let i = 0; i < 4; i++) await page.keyboard.press('PageDown')
    await keep()
    await page.getByRole('textbox', { name: 'Name of variation 3' }).waitFor()
    await fader('High').focus()
    for (let i = 0; i < 3; i++) await page.keyboard.press('PageDown')
    await page.getByRole('button', { name: 'Keep what stands as a new variation' }).focus()
    expect(await page.getByRole('button', { name: /^Work in / }).count()).toBe(2)
  })

  it('are heard as loud as the quietest of them', async () => {
    await page.getByText(/^Press a state’s numeral/).waitFor({ timeout: 20_000 })
    const levels: number[] = []
    for (const key of ['1', '2', '3', '-']) {
      await page.keyboard.press(key)
      await heardNow()
        .filter({ hasText: key === '-' ? 'As it came' : `Variation ${key}` })
        .waitFor()
      await page.getByText(/dB to match/).waitFor()
      levels.push(await loudness())
    }
    // Both faders are down in the third: it is the quietest, and stays as it is.
    for (const level of levels) expect(Math.abs(level - levels[2])).toBeLessThan(0.1)
    await page.keyboard.press('-')
    await page.getByText('As rendered').waitFor()
    const [plain, quietest] = [await loudness(), levels[2]]
    expect(Math.abs(plain - quietest)).toBeLessThan(0.1)
    await page.getByRole('button', { name: 'Work in Variation 1' }).press('Enter')
    await expect.poll(async () => (await loudness()) - quietest).toBeGreaterThan(2)
  })

  it('are measured anew in another one, and run beside each other once they were heard', async () => {
    await page.getByText(/^Press a state’s numeral/).waitFor({ timeout: 20_000 })
    for (const key of ['2', '3', '1']) {
      await page.keyboard.press(key)
      await heardNow()
        .filter({ hasText: `Variation ${key}` })
        .waitFor()
    }
  })

  it('are gone over to 200 times without a click, in time', async () => {
    const coded = await page.evaluate(async (rate) => {
      interface Shown {
        soberPrism: {
          desk: {
            player: {
              seek(frame: number): void
              play(): Promise<void>
              pause(): void
              record(seconds: number): Promise<{ left: Float32Array }>
            }
          }
        }
      }
      const { player } = (window as unknown as Shown).soberPrism.desk
      player.seek(rate / 4)
      const recording = player.record(3.4)
      await player.play()
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
      await wait(300)
      for (let i = 0; i < 200; i++) {
        const key = `${1 + (i % 3)}`
        window.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
        await wait(12)
      }
      const recorded = await recording
      player.pause()
      const bytes = new Uint8Array(recorded.left.buffer)
      let text = ''
      for (let i = 0; i < bytes.length; i += 8192) {
        text += String.fromCharCode(...bytes.subarray(i, i + 8192))
      }
      return btoa(text)
    }, RATE)
    const left = new Float32Array(new Uint8Array(Buffer.from(coded, 'base64')).buffer)
    const signal = left.subarray(0.2 * RATE)
    expect(clickRatio(signal, RATE)).toBeLessThan(4)
    // Whole cycles of the low tone: its phase stays within three frames, whatever is heard.
    const cycles = 0.1 * RATE
    for (let from = 0; from + 2 * cycles <= signal.length; from += cycles) {
      const [a, b] = [phaseOf(signal, from, cycles), phaseOf(signal, from + cycles, cycles)]
      expect(Math.abs(Math.sin((b - a) / 2))).toBeLessThan(0.05)
    }
    // It never falls silent between two of them.
    const peaks = Array.from({ length: Math.floor(signal.length / 480) }, (_, b) =>
      signal.subarray(480 * b, 480 * (b + 1)).reduce((most, v) => Math.max(most, Math.abs(v)), 0),
    ).sort((x, y) => x - y)
    expect(peaks[0]).toBeGreaterThan(0.4 * peaks[peaks.length >> 1])
    expect(problems).toEqual([])
  })
})

describe('a blind test', () => {
  /** Level of the low tone where one listens. */
  const lowLevel = async () => {
    const [left] = await recordFrom(page, RATE, 0.4)
    const part = left.subarray(0.2 * RATE, 0.4 * RATE)
    let [re, im] = [0, 0]
    part.forEach((v, i) => {
      re += v * Math.cos((2 * Math.PI * LOW_HZ * i) / RATE)
      im += v * Math.sin((2 * Math.PI * LOW_HZ * i) / RATE)
    })
    return 10 * Math.log10(re * re + im * im)
  }

  it('is won by one who hears the difference, and its page gives nothing away', async () => {
    await page.getByRole('tab', { name: 'Blind test' }).click()
    await page.getByLabel('First', { exact: true }).selectOption({ label: '2 Variation 2' })
    await page.getByLabel('Second', { exact: true }).selectOption({ label: '3 Variation 3' })
    await page.getByRole('textbox', { name: 'Trials' }).fill('4')
    await page.getByRole('textbox', { name: 'Trials' }).press('Enter')
    await page.getByRole('button', { name: 'Begin' }).click()
    const listen = async (key: string, name: string) => {
      await page.keyboard.press(key)
      await page.getByText(`You hear ${name}.`).waitFor()
      return lowLevel()
    }
    const first = await listen('ArrowLeft', 'Variation 2')
    const second = await listen('ArrowRight', 'Variation 3')
    expect(Math.abs(first - second)).toBeGreaterThan(3)
    const trees = new Set<string>()
    const pages = new Set<string>()
    for (let trial = 1; trial <= 4; trial++) {
      await page.getByText(`Trial ${trial} of 4`).waitFor()
      const hidden = await listen('ArrowDown', 'X')
      // Without figures that go on by themselves, and the count of trials.
      const text = await page.evaluate(() => document.body.textContent ?? '')
      trees.add(text.replace(/[\d.,:−–∞]+/g, ''))
      // Nor do names, roles, classes and data of what stands before one.
      const html = await page
        .getByRole('dialog')
        .first()
        .evaluate((d) => d.outerHTML)
      // But for figures, how many are answered, and whether it plays.
      const same = html.replace(/<div class="[^"]*"><\/div>|<svg.*?<\/svg>|\d+|Play|Pause/g, '')
      pages.add(same)
      const isFirst = Math.abs(hidden - first) < Math.abs(hidden - second)
      await page.keyboard.press(isFirst ? 'Shift+ArrowLeft' : 'Shift+ArrowRight')
    }
    await page.getByRole('dialog').getByText('4 of 4 right').waitFor()
    expect(trees.size).toBe(1)
    expect(pages.size).toBe(1)
    await page.getByRole('button', { name: 'Close' }).click()
    await page.getByRole('table', { name: 'Blind tests' }).waitFor()
    await page.getByRole('tab', { name: 'Compare' }).click()
    expect(problems).toEqual([])
  })
})

describe('a blind test that is guessed', () => {
  it('counts as often right as the order has it, and says what that is worth', async () => {
    await page.getByRole('tab', { name: 'Blind test' }).click()
    await page.getByRole('textbox', { name: 'Trials' }).fill('8')
    await page.getByRole('textbox', { name: 'Trials' }).press('Enter')
    await page.getByRole('button', { name: 'Begin' }).click()
    for (let trial = 1; trial <= 8; trial++) {
      await page.getByText(`Trial ${trial} of 8`).waitFor()
      await page.keyboard.press('Shift+ArrowLeft')
    }
    const result = page.getByRole('dialog')
    const count = await result.getByText(/^\d of 8 right$/).textContent()
    const right = Number(count?.[0])
    // It said the first each time: right is as often as the first was X.
    const chance = chanceOfGuessing(right, 8)
    const text = (await result.textContent()) ?? ''
    expect(text).toContain('Someone who guesses does as well')
    if (chance > 0.05) expect(text).toContain('Not told from guessing')
    const seed = Number(/seed (\d+)/i.exec(text)?.[1])
    expect(blindOrder(seed, 8).filter((x) => x === 'first').length).toBe(right)
    await page.getByRole('button', { name: 'Close' }).click()
    await page.getByRole('tab', { name: 'Compare' }).click()
    expect(problems).toEqual([])
  })
})

describe('variations and tests', () => {
  it('stay with the session when the page is loaded again', async () => {
    await page.reload()
    await page.getByRole('textbox', { name: 'Name of variation 3' }).waitFor({ timeout: 20_000 })
    await page.getByText('In work').waitFor()
    expect(await page.getByRole('button', { name: /^Work in / }).count()).toBe(2)
  })
})

describe('eyes closed, by keys alone', () => {
  /** What a screen reader would say of it: the tree of names and roles. */
  const tree = () => page.locator('body').ariaSnapshot()
  const said = () => page.getByRole('status').allTextContents()

  it('every part of Check is reached, and says its state', async () => {
    await page.keyboard.press('e')
    await page.getByRole('tab', { name: 'Compare' }).focus()
    await page.keyboard.press('Enter')
    await page.keyboard.press('1')
    await expect.poll(async () => (await said()).join(' ')).toMatch(/Listening only: 1 /)
    for (const [name, told] of [
      ['Blind test', /Which is it/],
      ['Second look', /second look/],
      ['Other playback', /heard here|lost/],
      ['Null test', /Line up/],
    ] as const) {
      await page.getByRole('tab', { name: 'Compare' }).focus()
      const tab = page.getByRole('tab', { name })
      for (let i = 0; i < 5 && (await tab.getAttribute('aria-selected')) !== 'true'; i++) {
        await page.keyboard.press('ArrowRight')
        await page.keyboard.press('Enter')
      }
      await expect.poll(tree, { timeout: 15_000 }).toMatch(told)
    }
    await page.getByRole('button', { name: 'Test', exact: true }).focus()
    await page.keyboard.press('Enter')
    await expect
      .poll(async () => (await said()).join(' '), { timeout: 15_000 })
      .toMatch(/The same to|Differs|Alike/)
    await page.keyboard.press('0')
    await page.getByText('As rendered').waitFor()
    expect(problems).toEqual([])
  })
})

describe('another playback', () => {
  const isOn = (where: string) =>
    page.getByText(new RegExp(`^Listening only: .*${where}, −?\\d+\\.\\d dB to match`)).waitFor()
  const toneOf = (signal: Float32Array, hz: number) => {
    let [re, im] = [0, 0]
    for (let i = 0; i < signal.length; i++) {
      const at = (2 * Math.PI * hz * i) / RATE
      re += signal[i] * Math.cos(at)
      im += signal[i] * Math.sin(at)
    }
    return 10 * Math.log10(re * re + im * im + 1e-12)
  }
  /** Low tone against high one, in dB. */
  const tilt = (signal: Float32Array) => toneOf(signal, LOW_HZ) - toneOf(signal, 1870)

  it('is heard by one key as loud as before, without its lows, and off again by another', async () => {
    await page.keyboard.press('0')
    await page.getByText('As rendered').waitFor()
    const plain = await recordFrom(page, RATE, 0.8)
    const before = await loudness()
    await page.keyboard.press('p')
    await isOn('on a telephone')
    const through = await recordFrom(page, RATE, 0.8)
    expect(Math.abs((await loudness()) - before)).toBeLessThan(0.15)
    const steady = ([left]: Float32Array[]) => left.subarray(0.2 * RATE)
    expect(tilt(steady(through)) - tilt(steady(plain))).toBeLessThan(-12)
    expect(clickRatio(steady(through), RATE)).toBeLessThan(4)
    await page.keyboard.press('0')
    await page.getByText('As rendered').waitFor()
    const after = await recordFrom(page, RATE, 0.8)
    expect(steady(after)).toEqual(steady(plain))
  })

  it('may be an impulse response of one’s own, which stays in this browser', async () => {
    const taps = Float32Array.from({ length: 480 }, (_, i) => (i === 0 ? 0.5 : 0))
    const impulse = file('Bare.wav', writeWav(makeClip(RATE, [taps]), '32f'))
    await page.getByTestId('impulse-file').setInputFiles([impulse])
    await isOn('through Bare')
    await page.getByRole('tab', { name: 'Other playback' }).click()
    const listed = page.getByRole('list', { name: 'Playbacks' })
    await listed.getByRole('button', { name: 'Bare', exact: true }).waitFor()
    const wrong = file('Notes.txt', new TextEncoder().encode('no audio'))
    await page.getByTestId('impulse-file').setInputFiles([wrong])
    await page.getByText(/^Notes\.txt cannot be read/).waitFor()
    await page.reload()
    await page.getByRole('tab', { name: 'Other playback' }).click()
    await listed.getByRole('button', { name: 'Bare', exact: true }).waitFor()
    await page.getByRole('button', { name: 'Remove Bare' }).click()
    await listed.getByRole('button', { name: 'Bare', exact: true }).waitFor({ state: 'detached' })
    expect(problems).toEqual([])
  })
})
