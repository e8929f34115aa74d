import { spawnSync } from 'node:child_process'
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm'

/** Runs a program in the project's root; a failure ends this process with its status. */
export function run(program, args, options = {}) {
  const status = attempt(program, args, options)
  if (status !== 0) process.exit(status)
}

/** Runs a program in the project's root and gives its status. */
export function attempt(program, args, options = {}) {
  const result = spawnSync(program, args, { cwd: root, stdio: 'inherit', ...options })
  if (result.error) {
    console.error(`${program}: ${result.error.message}`)
    return 1
  }
  return result.status ?? 1
}

/** A tool from node_modules, run by this Node. */
export function tool(path) {
  return join(root, 'node_modules', ...path.split('/'))
}

/** Installs the packages of the lock file, unless they are there. */
export function install() {
  const mark = join(root, 'node_modules', '.package-lock.json')
  const lock = join(root, 'package-lock.json')
  if (existsSync(mark) && statSync(mark).mtimeMs >= statSync(lock).mtimeMs) return
  console.log('Installing packages …')
  run(npm, ['ci', '--no-audit', '--no-fund', '--loglevel=error'])
}

/** The app as tests drive it: it shows its desk to them. */
export const testApp = join(root, '.cache', 'app-test')

/** Builds the app, unless nothing changed since the last build; `test` as tests drive it. */
export function build(test = false) {
  const built = join(test ? testApp : join(root, 'app', 'dist'), 'index.html')
  const sources = ['app', 'core', 'engine', 'package-lock.json']
  if (existsSync(built) && newest(sources) < statSync(built).mtimeMs) return
  console.log('Building the app …')
  const mode = test ? ['--mode', 'test', '--outDir', testApp, '--emptyOutDir'] : []
  run(process.execPath, [tool('vite/bin/vite.js'), 'build', 'app', '--logLevel', 'warn', ...mode])
}

/** Makes the demo's audio, unless it is there and its makers have not changed. */
export function demo() {
  const list = join(root, '.cache', 'demo', 'demo.json')
  const sources = ['demo/src', 'core/src/filters', 'core/src/audio']
  if (existsSync(list) && newest(sources) < statSync(list).mtimeMs) return
  console.log('Making the demo audio …')
  run(process.execPath, ['--import', 'tsx', join('demo', 'src', 'write.ts')])
}

/** Debian's chromium, installed where it is missing. */
export function chromium() {
  if (existsSync('/usr/bin/chromium')) return
  console.log('Installing chromium …')
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  run('apt-get', ['update', '-qq'], { env })
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium'], { env })
}

/** When the newest file of some files and folders was changed, in milliseconds. */
export function newest(paths) {
  let latest = 0
  const visit = (path) => {
    const info = statSync(path)
    if (!info.isDirectory()) latest = Math.max(latest, info.mtimeMs)
    else {
      for (const name of readdirSync(path)) {
        if (name !== 'dist' && name !== 'node_modules') visit(join(path, name))
      }
    }
  }
  for (const path of paths) visit(join(root, path))
  return latest
}

export function readJson(path) {
  return JSON.parse(readFileSync(path, 'utf8'))
}

/** Parts whose types are checked, each by its own settings. */
export const TYPED = [
  'core',
  'core/tsconfig.test.json',
  'engine',
  'app',
  'cli',
  'demo',
  'server',
  'e2e',
  'bench',
]

/** Checks the types of a part; 0 where they hold. */
export function typesOf(part) {
  return attempt(process.execPath, [tool('typescript/bin/tsc'), '-p', part, '--noEmit'])
}
