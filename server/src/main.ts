import { createServer } from 'node:net'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { serve } from '@hono/node-server'
import { makeApp } from './app'
import { answerBrokenRequests, SERVER_OPTIONS } from './broken-requests'

const FIRST_PORT = 4173
const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..')

const app = makeApp({ app: join(root, 'app', 'dist'), demo: join(root, '.cache', 'demo') })
const port = process.env.PORT ? givenPort(process.env.PORT) : await freePort(FIRST_PORT)
const options = { port, hostname: '127.0.0.1', serverOptions: SERVER_OPTIONS }
const server = serve({ fetch: app.fetch, ...options }, () => {
  console.log(`Sober Prism is at http://localhost:${port}/`)
})
server.on('error', (error: NodeJS.ErrnoException) => {
  const reason = error.code === 'EADDRINUSE' ? 'is taken by another program' : error.message
  console.error(`Port ${port} ${reason}.`)
  process.exit(1)
})
answerBrokenRequests(server)
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0))

function givenPort(text: string): number {
  if (/^\d{1,5}$/.test(text) && Number(text) <= 65535) return Number(text)
  console.error(`PORT must be a number from 0 to 65535, not “${text}”.`)
  process.exit(1)
}

/** The first port from `from` on that nobody listens to. */
async function freePort(from: number): Promise<number> {
  for (let candidate = from; candidate < from + 100; candidate++) {
    const free = await new Promise<boolean>((resolve) => {
      const probe = createServer()
      probe.once('error', () => resolve(false))
      probe.listen(candidate, '127.0.0.1', () => probe.close(() => resolve(true)))
    })
    if (free) return candidate
  }
  return from
}
