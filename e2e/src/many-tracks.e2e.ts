import { describe, expect, it } from 'vitest'
import { opened } from './opened'
import { noiseFile } from './sounds'

const TRACKS = 24
/** No row is lower, and a line stands under each. */
const LEAST_ROW = 19

const at = opened(async (page) => {
  await page.getByRole('button', { name: 'New session' }).click()
  await page.waitForURL(/gather/)
  const files = Array.from({ length: TRACKS }, (_, i) =>
    noiseFile(`A track with a long name ${i + 1}.wav`, i + 1, { seconds: 0.5, channels: 1 }),
  )
  await page.getByTestId('track-files').setInputFiles(files)
  await page.getByText(`${TRACKS} files imported`).waitFor()
  await page.getByRole('link', { name: 'Survey', exact: true }).click()
})

/** Rows of the list, and how many of them are seen as a whole. */
const rows = () =>
  at.page.evaluate(() => {
    const list = document.querySelector('section[aria-label="Tracks and groups"] ul')
    if (!list) throw new Error('There is no list of tracks.')
    const room = list.getBoundingClientRect()
    const all = [...list.children].map((row) => row.getBoundingClientRect())
    const inView = all.filter((r) => r.top >= room.top - 0.5 && r.bottom <= room.bottom + 0.5)
    return {
      count: all.length,
      inView: inView.length,
      least: Math.min(...all.map((r) => r.height)),
    }
  })
const ruler = () => at.page.getByRole('slider', { name: 'Plumb line, frequency' }).boundingBox()
const show = () => at.page.getByRole('button', { name: /^Show the equaliser of/ })

describe('a session of twenty-four tracks', () => {
  it('has all of them in view on Survey, with the mix and the ruler, and the equaliser as one line', async () => {
    await expect.poll(rows).toEqual({ count: TRACKS, inView: TRACKS, least: expect.any(Number) })
    expect((await rows()).least).toBeGreaterThanOrEqual(LEAST_ROW)
    const footer = (await at.page.getByRole('contentinfo').boundingBox())?.y ?? 0
    const [scale, line] = [await ruler(), await show().boundingBox()]
    if (!scale || !line) throw new Error('The ruler or the line of the equaliser is not in view.')
    expect(scale.y + scale.height).toBeLessThanOrEqual(line.y)
    expect(line.y + line.height).toBeLessThanOrEqual(footer)
  })

  it('opens the row that is chosen, and no other moves out of view', async () => {
    const name = at.page.getByRole('button', { name: 'A track with a long name 12', exact: true })
    const low = (await name.boundingBox())?.height ?? 0
    await name.click()
    await expect.poll(async () => (await rows()).inView).toBe(TRACKS)
    const fader = at.page.getByRole('slider', { name: 'Fader of A track with a long name 12, dB' })
    await expect
      .poll(async () => (await fader.boundingBox())?.y)
      .toBeGreaterThan(((await name.boundingBox())?.y ?? 0) + low / 2)
  })

  it('mutes and solos a low row by its buttons, and moves its fader by keys', async () => {
    await at.page
      .getByRole('button', { name: 'solo A track with a long name 3', exact: true })
      .click()
    await at.page.getByText(/Listening only: solo C/).waitFor()
    await at.page.keyboard.press('0')
    const fader = at.page.getByRole('slider', { name: 'Fader of A track with a long name 5, dB' })
    await fader.focus()
    await fader.press('ArrowDown')
    await expect.poll(() => fader.getAttribute('aria-valuetext')).toBe('−0.5 dB')
    await at.page.keyboard.press('Control+z')
  })

  it('makes room for the equaliser when it is asked for, and takes it away again', async () => {
    await show().click()
    const height = async () => (await at.page.getByTestId('sheet').boundingBox())?.height ?? 0
    await expect.poll(height).toBeGreaterThanOrEqual(200)
    await at.page.getByRole('button', { name: 'Hide the equaliser', exact: true }).click()
    await expect.poll(async () => (await rows()).inView).toBe(TRACKS)
  })

  it('scrolls in a small window, where mix and ruler stay', async () => {
    await at.page.setViewportSize({ width: 1024, height: 600 })
    await expect.poll(async () => (await rows()).least).toBe(LEAST_ROW)
    expect((await rows()).inView).toBeLessThan(TRACKS)
    const line = await ruler()
    const footer = (await at.page.getByRole('contentinfo').boundingBox())?.y ?? 0
    expect((line?.y ?? 0) + (line?.height ?? 0)).toBeLessThanOrEqual(footer)
    expect(at.problems).toEqual([])
  })
})
