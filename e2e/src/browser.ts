import { type Browser, type BrowserContext, chromium } from 'playwright-core'

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

/** The same, whose tabs' sound may be shared: it goes to no device where there is none. */
export function launchAudible(more: readonly string[]): Promise<Browser> {
  return chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [...ARGS, ...more],
    ignoreDefaultArgs: ['--mute-audio'],
  })
}

/** The same with a profile on the disk: what it stores may be larger than what a private window may. */
export function launchWithProfile(folder: string): Promise<BrowserContext> {
  return chromium.launchPersistentContext(folder, {
    executablePath: '/usr/bin/chromium',
    args: ARGS,
    viewport: { width: 1280, height: 800 },
  })
}
