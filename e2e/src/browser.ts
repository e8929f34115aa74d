import { type Browser, chromium } from 'playwright-core'

const ARGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--enable-unsafe-swiftshader',
  '--autoplay-policy=no-user-gesture-required',
]

/** Debian's chromium, headless, with sound that nobody hears. */
export function launch(more: readonly string[] = []): Promise<Browser> {
  return chromium.launch({ executablePath: '/usr/bin/chromium', args: [...ARGS, ...more] })
}
