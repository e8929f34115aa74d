import { mkdirSync, mkdtempSync, symlinkSync, writeFileSync } from 'node:fs'
import { type AddressInfo, connect } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { serve } from '@hono/node-server'
import { describe, expect, it } from 'vitest'
import { HEADERS, makeApp } from './app'
import { answerBrokenRequests, SERVER_OPTIONS } from './broken-requests'

const root = mkdtempSync(join(tmpdir(), 'served-'))
const app = join(root, 'app')
const demo = join(root, 'demo')
mkdirSync(join(app, 'assets'), { recursive: true })
mkdirSync(demo)
writeFileSync(join(root, 'secret.txt'), 'secret')
writeFileSync(join(app, 'index.html'), '<style nonce="__NONCE__"></style>')
writeFileSync(join(app, 'assets', 'a.js'), 'export {}')
writeFileSync(join(demo, 'demo.json'), '{}')
symlinkSync(root, join(app, 'link'))

const server = makeApp({ app, demo })
const get = (path: string, method = 'GET') => server.request(`http://localhost${path}`, { method })

describe('the server', () => {
  it('gives the page for the app’s own routes, isolated and with a strict policy', async () => {
    for (const path of ['/', '/session/abc/survey']) {
      const response = await get(path)
      const policy = response.headers.get('Content-Security-Policy') ?? ''
      const nonce = /'nonce-([^']+)'/.exec(policy)?.[1]
      expect(response.status).toBe(200)
      expect(await response.text()).toBe(`<style nonce="${nonce}"></style>`)
      expect(policy).toContain("default-src 'none'")
      expect(policy).not.toContain('unsafe-inline')
      expect(response.headers.get('Cross-Origin-Opener-Policy')).toBe('same-origin')
      expect(response.headers.get('Cross-Origin-Embedder-Policy')).toBe('require-corp')
    }
  })

  it('gives a new nonce each time', async () => {
    const policies = [await get('/'), await get('/')].map((r) =>
      r.headers.get('Content-Security-Policy'),
    )
    expect(policies[0]).not.toBe(policies[1])
  })

  it('gives built files and the demo with their types', async () => {
    const script = await get('/assets/a.js')
    expect([script.status, script.headers.get('Content-Type')]).toEqual([
      200,
      'text/javascript; charset=utf-8',
    ])
    expect((await get('/demo/demo.json')).headers.get('Content-Type')).toContain('json')
  })

  it.each([
    '/../secret.txt',
    '/%2e%2e/secret.txt',
    '/assets/..%2f..%2fsecret.txt',
    '/demo/..%2fsecret.txt',
    '/demo/%2e%2e%2fsecret.txt',
    '/demo//etc/passwd',
    '/%00.txt',
    '/link/secret.txt',
    '/missing.js',
    '/demo/missing.wav',
    '/demo/',
  ])('serves nothing outside the build: %s', async (path) => {
    const response = await get(path)
    expect(response.status).toBe(404)
    expect(await response.text()).not.toContain('secret')
  })

  it('answers nothing but GET and HEAD', async () => {
    expect((await get('/', 'POST')).status).toBe(405)
    expect((await get('/demo/demo.json', 'DELETE')).status).toBe(405)
    expect((await get('/', 'HEAD')).status).toBe(200)
  })
})

describe('files', () => {
  const ask = (headers: Record<string, string>) =>
    server.request('http://localhost/assets/a.js', { headers })

  it('are not sent again to who has them', async () => {
    const first = await ask({})
    const tag = first.headers.get('ETag') ?? ''
    expect(tag).toMatch(/^".+"$/)
    const again = await ask({ 'If-None-Match': tag })
    expect([again.status, await again.text()]).toEqual([304, ''])
    expect(again.headers.get('X-Content-Type-Options')).toBe('nosniff')
    expect((await ask({ 'If-None-Match': '"other"' })).status).toBe(200)
  })

  it.each([
    ['bytes=0-5', 206, 'export', 'bytes 0-5/9'],
    ['bytes=7-', 206, '{}', 'bytes 7-8/9'],
    ['bytes=-2', 206, '{}', 'bytes 7-8/9'],
    ['bytes=0-999', 206, 'export {}', 'bytes 0-8/9'],
    ['bytes=9-', 416, '', 'bytes */9'],
    ['bytes=5-2', 200, 'export {}', null],
    ['bytes=0-1,3-4', 200, 'export {}', null],
    ['lines=1-2', 200, 'export {}', null],
  ])('give the range %s', async (range, status, text, content) => {
    const response = await ask({ Range: range })
    expect([response.status, await response.text()]).toEqual([status, text])
    expect(response.headers.get('Content-Range')).toBe(content)
  })

  it('are sent whole where the range belongs to an older one', async () => {
    expect((await ask({ Range: 'bytes=0-1', 'If-Range': '"old"' })).status).toBe(200)
  })
})

describe('what is no request', () => {
  it.each([
    ['nonsense\r\n\r\n', 400],
    [`GET / HTTP/1.1\r\nHost: x\r\nX: ${'a'.repeat(40_000)}\r\n\r\n`, 431],
    ['GET / HTTP/1.1\r\nConnection: close\r\n\r\n', 400],
    ['GET / HTTP/1.1\r\nHost: a b\r\nConnection: close\r\n\r\n', 400],
    ['GET http://[ HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n', 400],
    ['TRACE / HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n', 405],
    ['CONNECT x:80 HTTP/1.1\r\nHost: x\r\n\r\n', 405],
    ['GET / HTTP/1.1\r\nHost: x\r\nExpect: wonders\r\n\r\n', 417],
    ['GET / HTTP/1.1\r\nHost: x\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n\r\n', 400],
    ['POST / HTTP/1.1\r\nHost: x\r\nConnection: close\r\nContent-Length: 0\r\n\r\n', 405],
  ])('is answered with all headers', async (request, status) => {
    const place = { port: 0, hostname: '127.0.0.1', serverOptions: SERVER_OPTIONS }
    const running = serve({ fetch: server.fetch, ...place })
    answerBrokenRequests(running)
    await new Promise((resolve) => running.once('listening', resolve))
    const { port } = running.address() as AddressInfo
    const answer = await new Promise<string>((resolve) => {
      const socket = connect(port, '127.0.0.1', () => socket.write(request))
      let text = ''
      socket.on('data', (data) => {
        text += data
      })
      socket.on('close', () => resolve(text))
    })
    running.close()
    expect(answer).toMatch(new RegExp(`^HTTP/1.1 ${status} `))
    for (const [name, value] of Object.entries(HEADERS))
      expect(answer.toLowerCase()).toContain(`${name}: ${value}`.toLowerCase())
  })
})
