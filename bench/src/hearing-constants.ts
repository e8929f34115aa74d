import { execFileSync } from 'node:child_process'
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { prepareHost } from '../../cli/src/host'
import { preparePlayers } from './real/players'
import { realSession } from './real/session'

/**
 * `npm run hearing`: what the model of hearing says when each of its constants is 5 % off: a copy of the code with that
 * constant changed reads loudness and shares heard. Docs/hearing.md has the table.
 */
interface Constant {
  readonly name: string
  readonly file: string
  /** What stands in the file, once, and what stands there in the copy. */
  readonly from: string
  readonly to: string
}

const OFF = 1.05
const CONSTANTS: readonly Constant[] = [
  scaled('outer ear, dB', 'ear.ts', 'interpolateLog(OUTER_EAR_DB, hz)'),
  scaled('middle ear, dB', 'ear.ts', 'interpolateLog(MIDDLE_EAR_DB, hz)'),
  scaled('threshold in quiet, dB', 'loudness-law.ts', 'interpolateLog(THRESHOLD_DB, hz)'),
  scaled('exponent alpha', 'loudness-law.ts', 'interpolateLinear(ALPHA, 10 * Math.log10(gain))'),
  {
    name: 'A at full gain',
    file: 'loudness-law.ts',
    from: 'const A_MIDDLE = 4.72096',
    to: `const A_MIDDLE = ${4.72096 * OFF}`,
  },
  scaled(
    'K, threshold in noise, dB',
    'loudness-law.ts',
    'interpolateLog(THRESHOLD_IN_NOISE_DB, hz)',
  ),
  {
    name: 'level from which loudness is power 0.2, dB',
    file: 'loudness-law.ts',
    from: 'const VERY_LOUD = 1e10',
    to: 'const VERY_LOUD = 10 ** 10.5',
  },
  {
    name: 'what tonal maskers mask less, dB',
    file: 'loudness-law.ts',
    from: 'export const TONAL_MASKER_DB = 12',
    to: 'export const TONAL_MASKER_DB = 13',
  },
  {
    name: 'width of filters (ERB), Hz',
    file: '../spectrum/erb.ts',
    from: 'return 24.7 * (0.00437 * hz + 1)',
    to: 'return 25.935 * (0.00437 * hz + 1)',
  },
  scaled('how slopes flatten with level', 'excitation.ts', '0.35 * (p / symmetricSlope(1000))'),
  scaled(
    'head between ear and far loudspeaker, dB',
    'two-ears.ts',
    'interpolateLog(FAR_SPEAKER_DB, hz)',
  ),
  {
    name: 'unmasking by two ears, dB',
    file: 'two-ears.ts',
    from: '10 ** (-interpolateLog(UNMASKING_DB, hz) / 10)',
    to: `10 ** ((-${OFF} * interpolateLog(UNMASKING_DB, hz)) / 10)`,
  },
  {
    name: 'inhibition between ears, exponent',
    file: 'two-ears.ts',
    from: 'const INHIBITION = 1.5978',
    to: `const INHIBITION = ${1.5978 * OFF}`,
  },
  {
    name: 'end of what the past masks, s',
    file: 'heard-moments.ts',
    from: 'const FADE_SECONDS = [0.003, 0.2] as const',
    to: 'const FADE_SECONDS = [0.003, 0.21] as const',
  },
]

function scaled(name: string, file: string, from: string): Constant {
  return { name, file, from, to: `(${OFF} * ${from})` }
}

const path = (relative: string) => fileURLToPath(new URL(relative, import.meta.url))
const CORE = path('../../core/src')
const COPY = path('../../.cache/hearing-constants')
const READER = fileURLToPath(import.meta.url)

/** What a reader of a copy prints. */
interface Reading {
  /** Loudness of 1 kHz at 60 dB SPL and of 100 Hz at 70, in sone. */
  readonly sones: readonly number[]
  /** Share heard of each track of a session, 0 to 1. */
  readonly shares: readonly number[]
  readonly lead: number
}

function readWith(changed: Constant | null): Reading {
  rmSync(COPY, { recursive: true, force: true })
  mkdirSync(COPY, { recursive: true })
  cpSync(CORE, COPY, { recursive: true })
  if (changed) {
    const file = join(COPY, 'hearing', changed.file)
    const text = readFileSync(file, 'utf8')
    if (text.split(changed.from).length !== 2) {
      throw new Error(`${changed.name}: "${changed.from}" stands not once in ${changed.file}.`)
    }
    writeFileSync(file, text.replace(changed.from, changed.to))
  }
  const tsx = path('../../node_modules/.bin/tsx')
  return JSON.parse(execFileSync(tsx, [READER, COPY], { encoding: 'utf8' }))
}

/** Reads with the code in a folder. */
async function readIn(folder: string): Promise<Reading> {
  const hearing: typeof import('@sober-prism/core/hearing') = await import(
    `${folder}/hearing/index.ts`
  )
  const findings: typeof import('@sober-prism/core/findings') = await import(
    `${folder}/findings/index.ts`
  )
  const host: typeof import('@sober-prism/core/host') = await import(`${folder}/host.ts`)
  prepareHost()
  // The copy has kernels of its own to be given.
  const module = createRequire(import.meta.url)
    .resolve('@echogarden/pffft-wasm/simd')
    .replace(/\.js$/, '.wasm')
  host.installKernels(readFileSync(module))
  preparePlayers()
  const { tracks } = realSession({ band: 'judging', seed: 91, many: false, against: null })
  const { sums } = findings.surveyClips(tracks)
  const sones = [
    hearing.exactLoudness([{ hz: 1000, dbSpl: 60 }]),
    hearing.exactLoudness([{ hz: 100, dbSpl: 70 }]),
  ]
  const shares = tracks.map((_, i) => hearing.trackMasking(sums, i).audibleShare)
  const lead = tracks.findIndex((t) => t.isLead)
  return { sones, shares, lead }
}

/** Prints the table. */
function compare(): void {
  const usual = readWith(null)
  const [middle, low] = usual.sones
  console.log(
    `As it is: ${middle.toFixed(2)} and ${low.toFixed(2)} sone; the lead ${(100 * usual.shares[usual.lead]).toFixed(1)} % heard.`,
  )
  console.log(
    '| 5 % more of | 1 kHz, 60 dB | 100 Hz, 70 dB | lead heard, points | all tracks, mean | most |',
  )
  console.log('|---|---|---|---|---|---|')
  for (const constant of CONSTANTS) {
    const { sones, shares } = readWith(constant)
    const percent = (i: number) => `${(100 * (sones[i] / usual.sones[i] - 1)).toFixed(1)} %`
    const points = shares.map((s, i) => 100 * (s - usual.shares[i]))
    const sizes = points.map(Math.abs)
    const mean = sizes.reduce((a, b) => a + b, 0) / sizes.length
    console.log(
      `| ${constant.name} | ${percent(0)} | ${percent(1)} | ${points[usual.lead].toFixed(2)} | ${mean.toFixed(2)} | ${Math.max(...sizes).toFixed(2)} |`,
    )
  }
  rmSync(COPY, { recursive: true, force: true })
}

const [folder] = process.argv.slice(2)
if (folder) process.stdout.write(JSON.stringify(await readIn(folder)))
else compare()
