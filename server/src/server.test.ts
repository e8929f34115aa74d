import { mkdirSync, mkdtempSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { makeApp } from './app'

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
