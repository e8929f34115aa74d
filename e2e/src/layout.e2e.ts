import { describe, expect, it } from 'vitest'
import { opened } from './opened'
import { choose, openAnnouncement } from './session-page'

/** Heights of a window, and how high the picture of the sheet is in it at the least. */
const WINDOWS = [
  { width: 1280, height: 800, least: 240 },
  { width: 1024, height: 700, least: 180 },
] as const
const KINDS = [
  'Equaliser',
  'Align',
  'Mono low end',
  'Drawn curve',
  'Dynamic EQ',
  'Spectral ducking',
  'Broad strokes',
  'Saturation',
  'Leveller',
  'Multiband',
] as const

const at = opened(openAnnouncement)
const sheetHeight = async () => (await at.page.getByTestId('sheet').boundingBox())?.height ?? 0
const step = async (name: string) => {
  await at.page.getByRole('link', { name, exact: true }).click()
  await at.page.waitForURL(new RegExp(`/${name.toLowerCase()}$`))
  // The page before it has a sheet as well.
  await at.page.getByRole('heading', { level: 1, name: new RegExp(`^${name}`) }).waitFor()
}

/** Fields of the sheet that lie over each other, that have no label in view, or whose text is cut. */
const faults = () =>
  at.page.evaluate(() => {
    const sheet = document.querySelector('[data-testid="sheet"]')
    const values = sheet?.parentElement?.lastElementChild
    const found: string[] = []
    const parts = [
      ...(values?.querySelectorAll<HTMLElement>(
        '.MuiInputBase-root, button, .MuiSlider-root, span[aria-hidden="true"], legend, label',
      ) ?? []),
    ].filter((e) => e.offsetWidth > 1 && !e.classList.contains('visually-hidden'))
    if (parts.length < 3) found.push('no fields are seen')
    const boxes = parts.map((e) => e.getBoundingClientRect())
    const nameOf = (e: HTMLElement) =>
      e.querySelector('[aria-label]')?.getAttribute('aria-label') ?? e.textContent ?? e.tagName
    parts.forEach((a, i) => {
      for (let k = i + 1; k < parts.length; k++) {
        if (a.contains(parts[k]) || parts[k].contains(a)) continue
        const [p, q] = [boxes[i], boxes[k]]
        const wide = Math.min(p.right, q.right) - Math.max(p.left, q.left)
        const high = Math.min(p.bottom, q.bottom) - Math.max(p.top, q.top)
        if (wide > 2 && high > 3) found.push(`${nameOf(a)} over ${nameOf(parts[k])}`)
      }
      const field = a.querySelector<HTMLInputElement>(
        'input:not([type="checkbox"], [type="range"])',
      )
      if (field && field.scrollWidth > field.clientWidth + 1) found.push(`${nameOf(a)} is cut`)
    })
    return found
  })

describe('the room on a page', () => {
  it.each(KINDS)('holds the editor of %s without one field over another', async (kind) => {
    const { page } = at
    await step('Fit')
    await page.getByRole('button', { name: 'Add a treatment to Fit' }).click()
    await page.getByRole('menuitem', { name: kind, exact: true }).click()
    if (kind === 'Dynamic EQ' || kind === 'Multiband') {
      await page.getByRole('button', { name: 'Band', exact: true }).click()
    }
    if (kind === 'Dynamic EQ' || kind === 'Spectral ducking') {
      await page.getByLabel('Key', { exact: true }).selectOption({ index: 1 })
    }
    for (const { least, ...size } of WINDOWS) {
      await page.setViewportSize(size)
      await expect.poll(sheetHeight).toBeGreaterThanOrEqual(least)
      expect(await faults()).toEqual([])
    }
  })
})

describe('the sheet', () => {
  const walk = async (what: string) => {
    for (const { least, ...size } of WINDOWS) {
      await at.page.setViewportSize(size)
      await expect.poll(sheetHeight, { message: what }).toBeGreaterThanOrEqual(least)
    }
  }
  /** Keeps its height with a graph in front, behind, and without one. */
  const keeps = async () => {
    const { page } = at
    for (const graph of ['Phase', 'Gain over time', 'No graph below']) {
      await choose(page, 'Graph below', graph)
      await walk(graph)
      const tab = page.getByRole('tab').first()
      if (!(await tab.count())) continue
      await tab.click()
      await walk(`${graph} behind`)
    }
  }
  const chip = (name: string) =>
    at.page.getByRole('button', { name: new RegExp(`^${name}, place`) })

  // The tallest editors are those of treatments with many values.
  it.each(['Dynamic EQ', 'Multiband'])(
    'keeps its height in Fit over %s and a graph',
    async (kind) => {
      await step('Fit')
      await chip(kind).click()
      await keeps()
    },
  )

  it('keeps its height in Clean, without a spectrogram and with one', async () => {
    await step('Clean')
    await keeps()
    await choose(at.page, 'Over time', 'Spectrogram before chain')
    const over = at.page.getByRole('region', { name: /^Spectrogram of/ })
    await over.waitFor()
    await keeps()
    // Both stand on one ruler, however narrow the window is.
    for (const { least: _, ...size } of WINDOWS) {
      await at.page.setViewportSize(size)
      await expect
        .poll(async () => {
          const [a, b] = await Promise.all([
            over.locator('canvas').first().boundingBox(),
            at.page.getByTestId('sheet').boundingBox(),
          ])
          return a && b ? [a.x - b.x, a.width - b.width] : null
        })
        .toEqual([0, 0])
    }
  })

  it('keeps its height in Shape under a comparison', async () => {
    const { page } = at
    await step('Shape')
    await page.getByRole('button', { name: /^Compare \w+ with \w+$/ }).click()
    await page.getByText('What EQ cannot match').waitFor({ timeout: 20_000 })
    await keeps()
    expect(at.problems).toEqual([])
  })
})

describe('the sheet of Survey', () => {
  it('makes room for what is read of the chain, all of it in view', async () => {
    const { page } = at
    await page.setViewportSize({ width: 1280, height: 800 })
    await step('Survey')
    await choose(page, 'Graph below', 'Phase')
    const panel = page.getByRole('region', { name: 'Reading of the chain' })
    const footer = (await page.getByRole('contentinfo').boundingBox())?.y ?? 0
    await expect
      .poll(async () => {
        const box = await panel.boundingBox()
        return box ? [box.height > 150, box.y + box.height <= footer + 1] : null
      })
      .toEqual([true, true])
    expect(await sheetHeight()).toBeGreaterThanOrEqual(120)
    await choose(page, 'Graph below', 'No graph below')
  })
})

describe('a finger', () => {
  /** Puts a finger down, moves it in steps and lifts it. */
  const drag = async (from: readonly [number, number], by: readonly [number, number]) => {
    const cdp = await at.page.context().newCDPSession(at.page)
    const touch = (type: 'touchStart' | 'touchMove', [x, y]: readonly [number, number]) =>
      cdp.send('Input.dispatchTouchEvent', { type, touchPoints: [{ x, y }] })
    await cdp.send('Emulation.setTouchEmulationEnabled', { enabled: true })
    await touch('touchStart', from)
    for (let step = 1; step <= 5; step++) {
      await touch('touchMove', [from[0] + (by[0] * step) / 5, from[1] + (by[1] * step) / 5])
    }
    await cdp.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] })
    await cdp.send('Emulation.setTouchEmulationEnabled', { enabled: false })
    await cdp.detach()
  }
  const middle = async (of: ReturnType<typeof at.page.getByRole>) => {
    const box = await of.boundingBox()
    if (!box) throw new Error('It is not in view.')
    return [box.x + box.width / 2, box.y + box.height / 2] as const
  }

  it('moves a flag, a fader and the passage', async () => {
    const { page } = at
    await step('Fit')
    await page.getByRole('button', { name: /^Equaliser, place/ }).click()
    await page.getByRole('button', { name: 'Bell' }).click()
    const flag = page.getByRole('slider', { name: 'Band a', exact: true })
    const said = await flag.getAttribute('aria-valuetext')
    await drag(await middle(flag), [60, 40])
    await expect.poll(() => flag.getAttribute('aria-valuetext')).not.toBe(said)
    expect(await flag.getAttribute('aria-valuetext')).toMatch(/^Bell, [12]\.\d+ kHz, −\d/)

    const fader = page.getByRole('slider', { name: /^Fader of Wheelhouse/ })
    const before = Number(await fader.inputValue())
    await drag(await middle(fader.locator('..')), [-20, 0])
    await expect.poll(async () => Number(await fader.inputValue())).toBeLessThan(before - 2)

    const piece = page.getByTestId('overview')
    const [x, y] = await middle(piece)
    await drag([x - 100, y], [180, 0])
    await page.getByText(/^passage \d:/).waitFor()
    expect(at.problems).toEqual([])
  })
})
