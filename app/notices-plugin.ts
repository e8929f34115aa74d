import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { Plugin } from 'vite'

/** Packages that the build takes code, styles or fonts from, by their folders. */
const folders = new Set<string>()

/**
 * Collects the licences of everything that is built in, in the main build and its workers, and ships them as
 * `licences.txt` beside the app.
 */
export function notices(): Plugin {
  return {
    name: 'notices',
    transform(_, id) {
      const folder = packageOf(id)
      if (folder !== null) folders.add(folder)
    },
  }
}

/** {@link notices} for the main build, which comes to its end last. */
export function noticesFile(): Plugin {
  return {
    ...notices(),
    generateBundle() {
      this.emitFile({ type: 'asset', fileName: 'licences.txt', source: textOf([...folders]) })
    },
  }
}

/** The folder of the package that a module belongs to; null for our own. */
function packageOf(id: string): string | null {
  const path = id.replace(/^\0/, '').replace(/\?.*$/, '')
  const at = path.lastIndexOf('/node_modules/')
  if (at < 0) return null
  const [scope, name] = path.slice(at + '/node_modules/'.length).split('/')
  const folder = join(
    path.slice(0, at),
    'node_modules',
    scope.startsWith('@') ? join(scope, name) : scope,
  )
  return existsSync(join(folder, 'package.json')) ? folder : null
}

function textOf(list: readonly string[]): string {
  const parts = list.map((folder) => {
    const { name, version, license, author } = JSON.parse(
      readFileSync(join(folder, 'package.json'), 'utf8'),
    )
    const by = typeof author === 'string' ? author : (author?.name ?? '')
    const file = readdirSync(folder).find((f) => /^(licen[sc]e|copying|ofl)/i.test(f))
    const text = file ? readFileSync(join(dirname(join(folder, file)), file), 'utf8').trim() : by
    return `${name} ${version}\nLicence: ${license}\n\n${text}\n`
  })
  const line = `\n${'-'.repeat(80)}\n\n`
  return `What is built into this app, and under which terms.\n${line}${parts.sort().join(line)}`
}
