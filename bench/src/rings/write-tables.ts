import { execFileSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { type BellReading, type RingModel, TREE_SIZE } from '@sober-prism/core/findings/rings'

/** Everything that is fitted to tell rings. */
export interface FittedRings {
  readonly model: RingModel
  readonly odds: { readonly slope: number; readonly offset: number }
  /** From this score on a ring is listed to be listened to. */
  readonly markScore: number
  readonly height: BellReading
  readonly width: BellReading
}

const FOLDER = new URL('../../../core/src/findings/rings/', import.meta.url)
const VERSIONED = ['fluidsynth', 'fluid-soundfont-gm', 'espeak-ng'] as const

/** The two tables, each with what it was made of in its head. @param told what is said of it besides: sounds and scores. */
export function tablesOf(
  { model, odds, markScore, height, width }: FittedRings,
  told: readonly string[],
): { readonly weights: string; readonly trees: string } {
  const head = (of: string) =>
    [
      `// ${of}, made by \`npm run rings -- --fit\`: not to be changed by hand.`,
      ...told.map((t) => `// ${t}`),
    ].join('\n')
  const weights = model.weights.map(
    ({ name, mean, sd, weight }) =>
      `  { name: '${name}', mean: ${mean}, sd: ${sd}, weight: ${weight} },`,
  )
  const reading = (name: string, { intercept, coefficients, bounds }: BellReading) =>
    [
      '// biome-ignore format: a table',
      `export const ${name}: BellReading = {`,
      `  intercept: ${intercept},`,
      `  coefficients: [${coefficients.join(', ')}],`,
      `  bounds: [${bounds.map((b) => `[${b.join(', ')}]`).join(', ')}],`,
      '}',
    ].join('\n')
  return {
    weights: [
      '// biome-ignore-all lint/suspicious/noApproximativeNumericConstant: numbers that were fitted',
      head('What tells rings'),
      "import type { BellReading, RingWeight } from './ring-model'",
      '',
      `export const RING_INTERCEPT = ${model.intercept}`,
      '// biome-ignore format: a table',
      'export const RING_WEIGHTS: readonly RingWeight[] = [',
      ...weights,
      ']',
      '',
      '/** Log odds of a claim by its score, where one sound in three has a ring: read off folds, by models of the others. */',
      `export const RING_ODDS = { slope: ${odds.slope}, offset: ${odds.offset} } as const`,
      '/** From this score on a ring is listed to be listened to: 0.6 false ones in an untouched sound of the folds. */',
      `export const RING_MARK_SCORE = ${markScore.toFixed(2)}`,
      '',
      '/** Height in dB from what stands at the place; see `bellReadings`. */',
      reading('RING_HEIGHT', height),
      '/** Natural logarithm of Q, likewise. */',
      reading('RING_WIDTH', width),
      '',
    ].join('\n'),
    trees: [
      '// biome-ignore-all lint/suspicious/noApproximativeNumericConstant: numbers that were fitted',
      head('Trees that tell rings, as `sumOfTrees` reads them'),
      '',
      '/** Log odds of a place before any tree is asked. */',
      `export const TREES_INTERCEPT = ${model.treesIntercept}`,
      '// biome-ignore format: a table',
      'export const RING_TREES: readonly number[] = [',
      ...rowsOf(model.trees),
      ']',
      '',
    ].join('\n'),
  }
}

/** A tree a line. */
function rowsOf(trees: readonly number[]): string[] {
  const size = TREE_SIZE
  return Array.from(
    { length: trees.length / size },
    (_, t) => `  ${trees.slice(t * size, (t + 1) * size).join(', ')},`,
  )
}

export function writeTables(tables: ReturnType<typeof tablesOf>): void {
  writeFileSync(fileURLToPath(new URL('weights.ts', FOLDER)), tables.weights)
  writeFileSync(fileURLToPath(new URL('tree-table.ts', FOLDER)), tables.trees)
}

/** Versions of the packages that play the sounds. */
export function versionsOfPlayers(): string {
  // biome-ignore lint/suspicious/noTemplateCurlyInString: dpkg's own placeholder
  const format = '${Package} ${Version}\n'
  const told = execFileSync('dpkg-query', ['-W', '-f', format, ...VERSIONED], { encoding: 'utf8' })
  return told.trim().split('\n').join(', ')
}
