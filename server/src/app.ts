import { readFile, realpath, stat } from 'node:fs/promises'
import { extname, join, resolve, sep } from 'node:path'
import { serveStatic } from '@hono/node-server/serve-static'
import { type Context, Hono, type MiddlewareHandler } from 'hono'
import { etag, RETAINED_304_HEADERS } from 'hono/etag'
import { NONCE, type SecureHeadersVariables, secureHeaders } from 'hono/secure-headers'

const NONCE_MARK = '__NONCE__'

/** What stands on every answer, also where Node itself refuses a request. */
export const HEADERS: Readonly<Record<string, string>> = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'no-referrer',
}

/** Folders that are served: the built app, and the demo's audio under `/demo/`. */
export interface Folders {
  readonly app: string
  readonly demo: string
}

interface Variables {
  readonly Variables: SecureHeadersVariables
}

/** Everything from here and nowhere else; code may compile WebAssembly, nothing may evaluate text. */
const headers = secureHeaders({
  crossOriginEmbedderPolicy: true,
  strictTransportSecurity: false,
  xDnsPrefetchControl: false,
  xDownloadOptions: false,
  xFrameOptions: false,
  xPermittedCrossDomainPolicies: false,
  xXssProtection: false,
  contentSecurityPolicy: {
    defaultSrc: ["'none'"],
    scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
    // The elements that components make carry the nonce of their page.
    styleSrc: ["'self'", NONCE],
    fontSrc: ["'self'"],
    imgSrc: ["'self'", 'data:'],
    connectSrc: ["'self'"],
    workerSrc: ["'self'"],
    mediaSrc: ["'self'"],
    baseUri: ["'none'"],
    formAction: ["'none'"],
    frameAncestors: ["'none'"],
  },
})

/**
 * The server: files of two folders with security headers, and the app's page for its own routes.
 * Nothing else is reachable.
 */
export function makeApp({ app: appFolder, demo: demoFolder }: Folders): Hono<Variables> {
  const app = new Hono<Variables>()
  app.use(headers)
  app.use(async (context, next) => {
    const { method } = context.req
    if (method !== 'GET' && method !== 'HEAD') {
      return context.text('Only GET is answered here.', 405)
    }
    await next()
  })
  app.use(etag({ retainedHeaders: RETAINED_304_HEADERS }))
  app.use(
    '/demo/*',
    filesIn(demoFolder, '/demo/', () => 'no-cache'),
  )
  app.get('/demo/*', (context) => context.text('Not found.', 404))
  // Built files carry a hash of their content in their names.
  app.use(
    filesIn(appFolder, '/', (path) =>
      path.startsWith('/assets/') ? 'max-age=31536000, immutable' : 'no-cache',
    ),
  )
  app.get('*', async (context) => {
    const { path } = context.req
    if (extname(path) !== '' && extname(path) !== '.html') return context.text('Not found.', 404)
    const page = await readFile(join(appFolder, 'index.html'), 'utf8')
    const nonce = context.get('secureHeadersNonce') ?? ''
    context.header('Cache-Control', 'no-store')
    return context.html(page.replaceAll(NONCE_MARK, nonce))
  })
  return app
}

/** Files of a folder but its pages, under a path. What does not lie in the folder goes on to the next handler. */
function filesIn(
  folder: string,
  at: string,
  cacheControl: (path: string) => string,
): MiddlewareHandler {
  return async (context, next) => {
    const { path } = context.req
    const file = await inside(folder, path.slice(at.length))
    if (!file || extname(file.path) === '.html') return next()
    ifRange(context, file.tag)
    const answer = await serveStatic({ path: file.path })(context, next)
    if (!answer) return
    answer.headers.set('Cache-Control', cacheControl(path))
    answer.headers.set('ETag', file.tag)
    return answer
  }
}

/** The file a request path names, if it lies in the folder; links and `..` do not lead out. */
async function inside(
  folder: string,
  path: string,
): Promise<{ readonly path: string; readonly tag: string } | null> {
  let decoded: string
  try {
    decoded = decodeURIComponent(path)
  } catch {
    return null
  }
  if (decoded === '' || decoded.includes('\0')) return null
  const root = await realpath(folder).catch(() => resolve(folder))
  const file = await realpath(resolve(root, decoded)).catch(() => null)
  if (!file?.startsWith(root + sep)) return null
  const info = await stat(file)
  if (!info.isFile()) return null
  const tag = `"${info.size.toString(36)}-${Math.round(info.mtimeMs).toString(36)}"`
  return { path: file, tag }
}

/** Leaves a request its range only where it is one range in bytes, and of the file as it is now (RFC 9110, 13.1.5 and 14.2). */
function ifRange({ req }: Context, tag: string): void {
  const asked = /^bytes=(\d*)-(\d*)$/.exec(req.header('Range') ?? '')
  const [first, last] = asked?.slice(1) ?? ['', '']
  const isOne = first !== '' ? last === '' || Number(last) >= Number(first) : last !== ''
  const condition = req.header('If-Range')
  if (!isOne || (condition !== undefined && condition !== tag)) req.raw.headers.delete('Range')
}
