import { spawn } from 'node:child_process'
import { mkdirSync, renameSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { makeClip, writeWav } from '@sober-prism/core/audio'
import { INVENTED_RESPONSES } from '@sober-prism/core/match'
import { writeCurveCsv } from '@sober-prism/core/session'
import { announcementMakers, DEMO_SEED, RATE_HZ, referenceMakers, waltzMakers } from './index'

/**
 * Writes the demo's WAV files, the invented responses (CSV) and the list of the sounds to a folder, by default `.cache/demo`, outside version
 * control: `write.ts [FOLDER] [--share N]`. Without `--share` two processes each make one share.
 */
const PROCESSES = 2

interface Entry {
  readonly kind: 'track' | 'reference' | 'announcement'
  readonly name: string
  readonly file: string
  readonly role?: string
  readonly faderDb?: number
}

interface Sound {
  readonly name: string
  readonly channels: readonly Float32Array[]
  readonly role?: string
  readonly faderDb?: number
}

const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..')
const shareAt = process.argv.indexOf('--share')
const folder =
  process.argv[2] && process.argv[2] !== '--share' ? process.argv[2] : join(root, '.cache', 'demo')
mkdirSync(folder, { recursive: true })
if (shareAt > 0) writeShare(Number(process.argv[shareAt + 1]))
else await writeAll()

function makers(): { kind: Entry['kind']; make: () => Sound }[] {
  return [
    ...waltzMakers({ seed: DEMO_SEED, planted: true }).map(
      (make) => ({ kind: 'track', make }) as const,
    ),
    ...referenceMakers(DEMO_SEED).map((make) => ({ kind: 'reference', make }) as const),
    ...announcementMakers(DEMO_SEED).map((make) => ({ kind: 'announcement', make }) as const),
  ]
}

/** Makes every n-th sound and reports each as a line of JSON; both drum tracks come from one process. */
function writeShare(share: number): void {
  const order = [0, 1, 0, 1, 0, 0, 1, 1, 0, 1, 0, 1, 1]
  for (const [index, { kind, make }] of makers().entries()) {
    if (order[index] !== share) continue
    const sound = make()
    const file = `${fileStem(sound.name)}.wav`
    writeFileSync(join(folder, file), writeWav(makeClip(RATE_HZ, sound.channels), 24))
    const entry: Entry = { kind, name: sound.name, file, role: sound.role, faderDb: sound.faderDb }
    console.log(JSON.stringify({ index, entry }))
  }
}

function fileStem(name: string): string {
  return name.toLowerCase().replaceAll(' ', '-')
}

async function writeAll(): Promise<void> {
  const started = performance.now()
  const shares = Array.from({ length: PROCESSES }, (_, share) => runShare(share))
  const files = (await Promise.all(shares))
    .flat()
    .sort((a, b) => a.index - b.index)
    .map(({ entry }) => entry)
  for (const { name, points } of INVENTED_RESPONSES) {
    writeFileSync(join(folder, `${fileStem(name)}.csv`), writeCurveCsv(points))
  }
  const list = join(folder, 'demo.json')
  writeFileSync(`${list}.part`, JSON.stringify({ name: 'Tern Island ferry night', files }, null, 1))
  renameSync(`${list}.part`, list)
  console.log(`Demo audio made in ${((performance.now() - started) / 1000).toFixed(1)} s.`)
}

function runShare(share: number): Promise<{ index: number; entry: Entry }[]> {
  const args = [
    ...process.execArgv,
    fileURLToPath(import.meta.url),
    folder,
    '--share',
    String(share),
  ]
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] })
  let output = ''
  child.stdout.on('data', (data) => {
    output += data
  })
  return new Promise((resolve, reject) => {
    child.on('error', reject)
    child.on('exit', (code) => {
      if (code !== 0) reject(new Error(`Making the demo audio failed (status ${code}).`))
      else
        resolve(
          output
            .trim()
            .split('\n')
            .map((line) => JSON.parse(line)),
        )
    })
  })
}
