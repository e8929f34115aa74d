import { setTimeout as wait } from 'node:timers/promises'

const POLL_MS = 150
const LONGEST_MS = 40_000

/** A browser driven by the protocol of W3C WebDriver, which all engines have. */
export class WebDriverPage {
  private constructor(
    private readonly address: string,
    private readonly session: string,
  ) {}

  /** @param address of the driver; asked until it answers. @param options what the browser is begun with. */
  static async open(address: string, options: object): Promise<WebDriverPage> {
    const body = { capabilities: { alwaysMatch: options } }
    const { sessionId } = (await retried(() => ask(address, 'POST', '/session', body))) as {
      sessionId: string
    }
    return new WebDriverPage(address, sessionId)
  }

  goto(url: string): Promise<unknown> {
    return this.#ask('POST', '/url', { url })
  }

  /** What a function gives in the page; it is sent as text. */
  evaluate<T>(work: () => T): Promise<T> {
    const script = `return (${work.toString()})()`
    return this.#ask('POST', '/execute/sync', { script, args: [] }) as Promise<T>
  }

  /** Waits until the page's text, hidden parts too, has this in it. */
  async hasText(words: RegExp): Promise<void> {
    await retried(async () => {
      const text = await this.evaluate(() => document.body.textContent ?? '')
      if (!words.test(text)) throw new Error(`No ${words} on the page: ${text.slice(0, 2000)}`)
    })
  }

  async click(xpath: string): Promise<void> {
    const element = await this.#find('xpath', xpath)
    await this.#ask('POST', `/element/${element}/click`, {})
  }

  /** Gives files to an input. */
  async choose(selector: string, path: string): Promise<void> {
    const element = await this.#find('css selector', selector)
    await this.#ask('POST', `/element/${element}/value`, { text: path })
  }

  async close(): Promise<void> {
    await this.#ask('DELETE', '')
  }

  #find(using: string, value: string): Promise<string> {
    return retried(async () => {
      const found = (await this.#ask('POST', '/element', { using, value })) as object
      return Object.values(found)[0] as string
    })
  }

  #ask(method: string, path: string, body?: object): Promise<unknown> {
    return ask(this.address, method, `/session/${this.session}${path}`, body)
  }
}

async function ask(address: string, method: string, path: string, body?: object): Promise<unknown> {
  const headers = { 'content-type': 'application/json' }
  const response = await fetch(address + path, { method, headers, body: JSON.stringify(body) })
  const { value } = (await response.json()) as { value: { error?: string; message?: string } }
  if (value?.error) throw new Error(`${method} ${path}: ${value.error} ${value.message ?? ''}`)
  return value
}

async function retried<T>(work: () => Promise<T>): Promise<T> {
  const until = Date.now() + LONGEST_MS
  for (;;) {
    try {
      return await work()
    } catch (error) {
      if (Date.now() > until) throw error
      await wait(POLL_MS)
    }
  }
}
