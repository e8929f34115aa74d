import type { Browser, CDPSession, Page } from 'playwright-core'

/** Work of the page's main thread that a frame waits for, by the browser's own trace. */
const SCRIPT_EVENTS = ['FunctionCall', 'EventDispatch', 'FireAnimationFrame', 'TimerFire']
const FRAME_MS = 1000 / 60

interface TraceEvent {
  readonly name: string
  readonly ph: string
  readonly ts: number
  readonly dur?: number
  /** Time that the thread itself ran, in µs: without what it waited for a core. */
  readonly tdur?: number
  readonly pid: number
  readonly tid: number
}

async function trace(session: CDPSession, work: () => Promise<void>): Promise<TraceEvent[]> {
  const events: TraceEvent[] = []
  const collect = ({ value }: { value: unknown[] }) => {
    for (const event of value as TraceEvent[]) events.push(event)
  }
  session.on('Tracing.dataCollected', collect)
  const done = new Promise<void>((resolve) =>
    session.once('Tracing.tracingComplete', () => resolve()),
  )
  await session.send('Tracing.start', {
    transferMode: 'ReportEvents',
    traceConfig: { includedCategories: ['devtools.timeline'] },
  })
  await work()
  await session.send('Tracing.end')
  await done
  session.off('Tracing.dataCollected', collect)
  return events
}

/**
 * Script in each sixtieth of a second, in ms: only outermost calls of the busiest thread that draws frames.
 * @param clock what counts: `dur` by the clock on the wall, `tdur` as long as the thread had a core.
 */
function scriptPerFrame(events: readonly TraceEvent[], clock: 'dur' | 'tdur'): number[] {
  const drawn = new Map<string, number>()
  for (const { name, pid, tid } of events) {
    if (name === 'FireAnimationFrame')
      drawn.set(`${pid} ${tid}`, (drawn.get(`${pid} ${tid}`) ?? 0) + 1)
  }
  const [main] = [...drawn].sort((a, b) => b[1] - a[1])[0] ?? ['']
  const calls = events
    .filter((e) => `${e.pid} ${e.tid}` === main && e.ph === 'X' && SCRIPT_EVENTS.includes(e.name))
    .sort((a, b) => a.ts - b.ts)
  const frames = new Map<number, number>()
  let end = 0
  const start = calls[0]?.ts ?? 0
  for (const call of calls) {
    const { ts, dur = 0 } = call
    if (ts < end) continue
    end = ts + dur
    const frame = Math.floor((ts - start) / 1000 / FRAME_MS)
    frames.set(frame, (frames.get(frame) ?? 0) + (call[clock] ?? dur) / 1000)
  }
  return [...frames.values()]
}

/** Steps of what is drawn, at the browser's rate. */
async function steps(count: number, step: (i: number) => Promise<void>): Promise<void> {
  for (let i = 0; i < count; i++) {
    await step(i)
    await new Promise((resolve) => setTimeout(resolve, FRAME_MS))
  }
}

function figures(what: string, events: readonly TraceEvent[]): [string, string][] {
  const sorted = (clock: 'dur' | 'tdur') => scriptPerFrame(events, clock).sort((a, b) => a - b)
  const [wall, own] = [sorted('dur'), sorted('tdur')]
  const at = (frames: readonly number[], share: number) =>
    `${(frames[Math.floor(share * (frames.length - 1))] ?? 0).toFixed(1)} ms`
  return [
    [`${what}: frames with script`, String(wall.length)],
    ['script per frame, median', at(wall, 0.5)],
    ['script per frame, 95 of 100 under', at(wall, 0.95)],
    ['script per frame, worst', at(wall, 1)],
    ['the same without what the thread waited for a core', at(own, 1)],
  ]
}

async function dragMark(page: Page, session: CDPSession, name: string): Promise<TraceEvent[]> {
  const flag = await page.getByRole('slider', { name, exact: true }).boundingBox()
  if (!flag) throw new Error('There is no mark to drag.')
  return trace(session, async () => {
    await page.mouse.move(flag.x + 8, flag.y + 8)
    await page.mouse.down()
    await steps(180, (i) =>
      page.mouse.move(flag.x + 8 + 60 * Math.sin(i / 20), flag.y + 8 + 20 * Math.sin(i / 7)),
    )
    await page.mouse.up()
  })
}

/** While nine tracks sound and everything is drawn live: a mark is dragged; one of ten beside a drawn curve; one hunts. */
export async function measureFrames(
  browser: Browser,
  address: string,
): Promise<[string, string][]> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  await page.goto(address)
  await page.getByRole('button', { name: /Tern Island ferry night/ }).click()
  await page.waitForURL(/survey/, { timeout: 60_000 })
  await page.getByText(/^Measured over/).waitFor({ timeout: 60_000 })
  const covered = page.getByRole('article').filter({ hasText: 'Accordion masks Singer' })
  await covered.getByText('Accordion masks Singer').click()
  await covered.getByRole('button', { name: 'Apply' }).click()
  await page.getByText(/measured now/).waitFor()
  await page.getByText(/^Measured over/).waitFor({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.waitForTimeout(1500)
  const session = await context.newCDPSession(page)
  const alone = figures('a mark', await dragMark(page, session, 'Band a'))
  await page.getByRole('link', { name: 'Clean', exact: true }).click()
  await page.getByRole('toolbar', { name: 'Hunt' }).waitFor()
  await page.getByRole('button', { name: 'Add a treatment to Clean' }).click()
  await page.getByRole('menuitem', { name: 'Drawn curve' }).click()
  await page.getByRole('button', { name: 'Add a treatment to Clean' }).click()
  await page.getByRole('menuitem', { name: 'Equaliser' }).click()
  for (let i = 0; i < 10; i++) await page.getByRole('button', { name: 'Bell', exact: true }).click()
  await page.getByRole('slider', { name: 'Band j', exact: true }).waitFor()
  await page.waitForTimeout(8000)
  const ten = figures('one of ten marks', await dragMark(page, session, 'Band j'))
  await page.getByRole('button', { name: 'Hunt by ear' }).click()
  const layer = await page.getByRole('slider', { name: 'Boost of the hunt' }).boundingBox()
  if (!layer) throw new Error('There is no hunt on the sheet.')
  const hunted = await trace(session, () =>
    steps(180, (i) =>
      page.mouse.move(layer.x + layer.width * (0.5 + 0.3 * Math.sin(i / 25)), layer.y + 90),
    ),
  )
  await context.close()
  return [...alone, ...ten, ...figures('the hunt beside them', hunted)]
}
