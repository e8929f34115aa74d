import { join } from 'node:path'
import type { Browser } from 'playwright-core'
import { build } from 'vite'
import { startServer } from '../../e2e/src/serve'
import type { Measurements } from '../page/filters'

const root = join(import.meta.dirname, '..')

/** Filters, convolution and spectra in the browser, beside the browser's own nodes. */
export async function measureFilters(browser: Browser): Promise<[string, string][]> {
  await build({ configFile: join(root, 'vite.config.ts'), logLevel: 'warn' })
  const { address, stop } = await startServer(join(root, '..', '.cache', 'bench'))
  const page = await browser.newPage()
  page.on('pageerror', (error) => console.error(error.message))
  await page.goto(address)
  await page.waitForFunction(() => 'measurements' in window)
  const run = <K extends keyof Measurements>(name: K) =>
    page.evaluate<unknown, string>((key) => {
      const { measurements } = window as unknown as {
        measurements: Record<string, () => Promise<unknown>>
      }
      return measurements[key]()
    }, name) as ReturnType<Measurements[K]>
  const beside = ({ ours, browser: theirs }: { ours: number; browser: number }) =>
    `${ours.toFixed(0)} ms beside ${theirs.toFixed(0)} ms: ${(ours / theirs).toFixed(2)}`
  const bells = await run('bells')
  const fir = await run('fir')
  const even = await run('evenness')
  const stft = await run('stft')
  const session = await run('session')
  const percent = (share: number) => `${(100 * share).toFixed(0)} %`
  stop()
  return [
    ['eight stereo bells over 60 s, beside BiquadFilterNode', beside(bells)],
    ['16,384-tap stereo FIR over 60 s, beside ConvolverNode', beside(fir)],
    ['… its worst block against the median', `${(even.worst / even.median).toFixed(2)}`],
    ['8192-point short-time spectra of 10 min mono, hop 2048', `${stft.ours.toFixed(0)} ms`],
    [
      '24 stereo tracks, 8 moving bells each, 4 in linear phase: share of real time',
      `mean ${percent(session.mean)}, 99.9 % of blocks under ${percent(session.p999)}, worst ${percent(session.worst)}`,
    ],
  ]
}
