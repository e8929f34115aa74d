import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { serve } from '@hono/node-server'
import { makeApp } from '@sober-prism/server'

const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..')

/** Serves the app as built for tests, or another folder, on a free port; gives the address and a way to stop. */
export function startServer(
  folder = join(root, '.cache', 'app-test'),
): Promise<{ address: string; stop: () => void }> {
  const app = makeApp({ app: folder, demo: join(root, '.cache', 'demo') })
  return new Promise((resolve) => {
    const server = serve({ fetch: app.fetch, port: 0, hostname: '127.0.0.1' }, ({ port }) => {
      resolve({ address: `http://localhost:${port}`, stop: () => server.close() })
    })
  })
}
