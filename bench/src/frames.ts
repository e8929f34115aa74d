import type { Browser, CDPSession } from 'playwright-core'

/** Work of the page's main thread that a frame waits for, by the browser's own trace. */
const SCRIPT_EVENTS = ['FunctionCall', 'EventDispatch', 'FireAnimationFrame', 'TimerFire']
const FRAME_MS = 1000 / 60

interface TraceEvent {
  readonly name: string
  readonly ph: string
  readonly ts: number
  readonly dur?: number
  readonly pid: number
  readonly tid: number
}

async function trace(session: CDPSession, work: () => Promise<void>): Promise<TraceEvent[]> {
  const events: TraceEvent[] = []
  session.on('Tracing.dataCollected', ({ value }) => {
    events.push(...(value as unknown as TraceEvent[]))
  })
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
  return events
}

/** Script in each sixtieth of a second, in ms: only outermost calls of the busiest thread that draws frames. */
function scriptPerFrame(events: readonly TraceEvent[]): number[] {
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
  for (const { ts, dur = 0 } of calls) {
    if (ts < end) continue
    end = ts + dur
    const frame = Math.floor((ts - start) / 1000 / FRAME_MS)
    frames.set(frame, (frames.get(frame) ?? 0) + dur / 1000)
  }
  return [...frames.values()]
}

/** A mark is dragged while nine tracks sound and everything is drawn live. */
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
  const covered = page.getByRole('article').filter({ hasText: 'Accordion covers Singer' })
  await covered.getByText('Accordion covers Singer').click()
  await covered.getByRole('button', { name: 'Apply' }).click()
  await page.getByText(/measured now/).waitFor()
  await page.getByText(/^Measured over/).waitFor({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.waitForTimeout(1500)
  const flag = await page.getByRole('slider', { name: 'Band a' }).boundingBox()
  if (!flag) throw new Error('There is no mark to drag.')
  const session = await context.newCDPSession(page)
  const events = await trace(session, async () => {
    await page.mouse.move(flag.x + 8, flag.y + 8)
    await page.mouse.down()
    for (let i = 0; i < 180; i++) {
      await page.mouse.move(flag.x + 8 + 60 * Math.sin(i / 20), flag.y + 8 + 20 * Math.sin(i / 7))
      await page.waitForTimeout(FRAME_MS)
    }
    await page.mouse.up()
  })
  await context.close()
  const frames = scriptPerFrame(events).sort((a, b) => a - b)
  const at = (share: number) =>
    `${(frames[Math.floor(share * (frames.length - 1))] ?? 0).toFixed(1)} ms`
  return [
    ['frames with script', String(frames.length)],
    ['script per frame, median', at(0.5)],
    ['script per frame, 95 of 100 under', at(0.95)],
    ['script per frame, worst', at(1)],
  ]
}
