import { open, readFile, realpath, stat } from 'node:fs/promises'
import { extname, join, resolve, sep } from 'node:path'
import { Hono, type HonoRequest } from 'hono'

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
  '.txt': 'text/plain; charset=utf-8',
}
const NONCE_MARK = '__NONCE__'

/** What stands on every answer. */
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

/**
 * The server: files of two folders with security headers, and the app's page for its own routes.
 * Nothing else is reachable.
 */
export function makeApp({ app: appFolder, demo: demoFolder }: Folders): Hono {
  const app = new Hono()
  app.use(async (context, next) => {
    await next()
    for (const [name, value] of Object.entries(HEADERS)) context.header(name, value)
  })
  app.on(['GET', 'HEAD'], '/demo/*', async (context) => {
    const file = await inside(demoFolder, context.req.path.slice('/demo/'.length))
    return file ? fileResponse(context.req, file, 'no-cache') : context.text('Not found.', 404)
  })
  app.on(['GET', 'HEAD'], '*', async (context) => {
    const { path } = context.req
    const file = await inside(appFolder, path.slice(1))
    if (file && extname(file) !== '.html') {
      // Built files carry a hash of their content in their names.
      return fileResponse(
        context.req,
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

/** A file, or the one range of it that is asked for; nothing where the browser has it already (RFC 9110). */
async function fileResponse(
  request: HonoRequest,
  file: string,
  cacheControl: string,
): Promise<Response> {
  const { size, mtimeMs } = await stat(file)
  const tag = `"${size.toString(36)}-${Math.round(mtimeMs).toString(36)}"`
  const headers: Record<string, string> = {
    'Content-Type': TYPES[extname(file)] ?? 'application/octet-stream',
    'Cache-Control': cacheControl,
    ETag: tag,
    'Accept-Ranges': 'bytes',
  }
  const known = request.header('If-None-Match')
  if (known?.split(',').some((t) => t.trim().replace(/^W\//, '') === tag || t.trim() === '*')) {
    return new Response(null, { status: 304, headers })
  }
  const condition = request.header('If-Range')
  const asked = condition === undefined || condition === tag ? request.header('Range') : undefined
  const range = rangeOf(asked, size)
  if (range === 'whole') return new Response(await readFile(file), { headers })
  if (range === 'outside') {
    return new Response(null, {
      status: 416,
      headers: { ...headers, 'Content-Range': `bytes */${size}` },
    })
  }
  const { from, to } = range
  const part = Buffer.alloc(to + 1 - from)
  const handle = await open(file)
  try {
    await handle.read(part, 0, part.length, from)
  } finally {
    await handle.close()
  }
  return new Response(part, {
    status: 206,
    headers: { ...headers, 'Content-Range': `bytes ${from}-${to}/${size}` },
  })
}

/** What a Range header asks for. Several ranges at once are answered by the whole, as is allowed. */
function rangeOf(
  header: string | undefined,
  size: number,
): { from: number; to: number } | 'whole' | 'outside' {
  const match = /^bytes=(\d{0,15})-(\d{0,15})$/.exec(header ?? '')
  if (!match || (match[1] === '' && match[2] === '')) return 'whole'
  const [, first, last] = match
  const from = first === '' ? Math.max(0, size - Number(last)) : Number(first)
  const to = first === '' || last === '' ? size - 1 : Math.min(size - 1, Number(last))
  if (first !== '' && last !== '' && Number(last) < from) return 'whole'
  return from > to ? 'outside' : { from, to }
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
