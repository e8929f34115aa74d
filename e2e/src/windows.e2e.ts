import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { launch } from './browser'
import { freshPage } from './session-page'
import { noiseFile } from './sounds'

let browser: Browser
beforeAll(async () => {
  browser = await launch()
})
afterAll(() => browser.close())

describe('a session in two windows', () => {
  it('is worked on in one of them; the other says so and can take it over, with everything in it', async () => {
    const { page: first, problems } = await freshPage(browser)
    await first.getByRole('button', { name: 'New session' }).click()
    await first.waitForURL(/\/gather$/)
    await first.getByTestId('track-files').setInputFiles([noiseFile('Viola.wav', 1)])
    await first.getByLabel('Name of track A').waitFor()

    const second = await first.context().newPage()
    await second.goto(first.url())
    await second.getByText(/open in another window/).waitFor()
    await expect.poll(() => second.getByLabel('Name of track A').count()).toBe(0)

    // What was typed a moment before is not lost.
    await first.getByLabel('Name of track A').fill('Viola d’amore')
    await second.getByRole('button', { name: 'Take over here' }).click()
    await second.getByLabel('Name of track A').waitFor()
    await expect.poll(() => second.getByLabel('Name of track A').inputValue()).toBe('Viola d’amore')
    await first.getByText(/open in another window/).waitFor()

    await second.getByLabel('Name of track A').fill('Viola')
    await first.getByRole('button', { name: 'Take over here' }).click()
    await first.getByLabel('Name of track A').waitFor()
    await expect.poll(() => first.getByLabel('Name of track A').inputValue()).toBe('Viola')
    await second.getByText(/open in another window/).waitFor()

    // A window that is closed lets go by itself.
    await first.close()
    await second.getByLabel('Name of track A').waitFor()
    expect(problems).toEqual([])
  })

  it('is not taken from a window where files are coming in before one knows that this stops them', async () => {
    const { page: first } = await freshPage(browser)
    await first.getByRole('button', { name: 'New session' }).click()
    await first.waitForURL(/\/gather$/)
    let letOn = () => {}
    const held = new Promise<void>((resolve) => {
      letOn = resolve
    })
    await first.route(/files\.worker.*\.js$/, async (route) => {
      await held
      await route.continue()
    })
    await first.getByTestId('track-files').setInputFiles([noiseFile('Viola.wav', 1)])
    await first.getByText('Viola.wav').waitFor()

    const second = await first.context().newPage()
    await second.goto(first.url())
    await second.getByRole('button', { name: 'Take over here' }).click()
    await second.getByText(/Files are still importing there; taking over stops them/).waitFor()
    letOn()
    // The first went on undisturbed.
    await first.getByLabel('Name of track A').waitFor()

    await second.getByRole('button', { name: 'Take over anyway' }).click()
    await second.getByLabel('Name of track A').waitFor()
    await first.getByText(/open in another window/).waitFor()
  })
})
