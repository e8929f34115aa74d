import { readFile, realpath, stat } from 'node:fs/promises'
import { extname, join, resolve, sep } from 'node:path'
import { Hono } from 'hono'

const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.json': 'application/json; charset=utf-8',
  '.wasm': 'application/wasm',
  '.woff2': 'font/woff2',
  '.woff': 'font/woff',
  '.svg': 'image/svg+xml',
  '.png': 'image/png',
  '.wav': 'audio/wav',
}
const NONCE_MARK = '__NONCE__'

/** Folders that are served: the built app, and the demo's audio under `/demo/`. */
export interface Folders {
  readonly app: string
  readonly demo: string
}

/**
 * The server: files of two folders with security headers, and the app's page for its own routes.
 * Nothing else is reachable.
 */
export function makeApp({ app: appFolder, demo: demoFolder }: Folders): Hono {
  const app = new Hono()
  app.use(async (context, next) => {
    await next()
    context.header('Cross-Origin-Opener-Policy', 'same-origin')
    context.header('Cross-Origin-Embedder-Policy', 'require-corp')
    context.header('Cross-Origin-Resource-Policy', 'same-origin')
    context.header('X-Content-Type-Options', 'nosniff')
    context.header('Referrer-Policy', 'no-referrer')
  })
  app.on(['GET', 'HEAD'], '/demo/*', async (context) => {
    const file = await inside(demoFolder, context.req.path.slice('/demo/'.length))
    return file ? fileResponse(file, 'no-cache') : context.text('Not found.', 404)
  })
  app.on(['GET', 'HEAD'], '*', async (context) => {
    const { path } = context.req
    const file = await inside(appFolder, path.slice(1))
    if (file && extname(file) !== '.html') {
      // Built files carry a hash of their content in their names.
      return fileResponse(
        file,
        path.startsWith('/assets/') ? 'max-age=31536000, immutable' : 'no-cache',
      )
    }
    if (extname(path) !== '' && extname(path) !== '.html') return context.text('Not found.', 404)
    return pageResponse(join(appFolder, 'index.html'))
  })
  app.all('*', (context) => context.text('Only GET is answered here.', 405))
  return app
}

/** The file a request path names, if it lies in the folder; links and `..` do not lead out. */
async function inside(folder: string, path: string): Promise<string | null> {
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
  return (await stat(file)).isFile() ? file : null
}

async function fileResponse(file: string, cacheControl: string): Promise<Response> {
  return new Response(await readFile(file), {
    headers: {
      'Content-Type': TYPES[extname(file)] ?? 'application/octet-stream',
      'Cache-Control': cacheControl,
    },
  })
}

/** The app's page, with a fresh nonce for the style elements that its components make. */
async function pageResponse(file: string): Promise<Response> {
  const nonce = Buffer.from(crypto.getRandomValues(new Uint8Array(18))).toString('base64')
  const page = (await readFile(file, 'utf8')).replaceAll(NONCE_MARK, nonce)
  return new Response(page, {
    headers: {
      'Content-Type': TYPES['.html'],
      'Cache-Control': 'no-store',
      'Content-Security-Policy': contentPolicy(nonce),
    },
  })
}

/** Everything from here and nowhere else; code may compile WebAssembly, nothing may evaluate text. */
function contentPolicy(nonce: string): string {
  return [
    "default-src 'none'",
    "script-src 'self' 'wasm-unsafe-eval'",
    `style-src 'self' 'nonce-${nonce}'`,
    "font-src 'self'",
    "img-src 'self' data:",
    "connect-src 'self'",
    "worker-src 'self'",
    "media-src 'self'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
  ].join('; ')
}
