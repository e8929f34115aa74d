import { likelihoodOf, RING_FIT, RING_LEVELS } from '@sober-prism/core/findings/rings'
import { prepareHost } from '../../cli/src/host'
import { preparePlayers } from './real/players'
import {
  claimsOf,
  fitModel,
  fitOdds,
  fitReadings,
  foldsOf,
  type Judged,
  scoreAtFalse,
} from './rings/fit'
import { HEADER, RELIABILITY_HEADER, reliability, reportRow } from './rings/report'
import { type ReadSound, readSounds } from './rings/sounds'
import { type FittedRings, tablesOf, versionsOfPlayers, writeTables } from './rings/write-tables'

/**
 * `npm run rings [SET …]`: how many planted rings are found in sounds that set no constant, and how often what is told is right.
 * `npm run rings -- --fit [SET …]`: makes and reads the sounds of the fit, fits, and writes `weights.ts` and
 * `tree-table.ts` in core/src/findings/rings; then scores like the first. A set is `takes:PLAYERS:FROM-TO`, single recordings,
 * or `songs:PLAYERS:FROM-TO`, parts of songs.
 */
const FIT_SETS = ['takes:tuning:1-528', 'songs:tuning:200-251'] as const
const JUDGED_SETS = ['takes:judging:1-96', 'songs:judging:120-131', 'takes:third:1-48'] as const

function readAll(sets: readonly string[]): ReadSound[] {
  return sets.flatMap((set) => {
    let told = 0
    const sounds = readSounds(set, (share) => {
      if (share < told + 0.1) return
      told = share
      console.error(`${set}: ${Math.round(100 * share)} %`)
    })
    return sounds
  })
}

function fitRings(): FittedRings {
  const sounds = readAll(FIT_SETS)
  console.error('fitting')
  const folds = foldsOf(sounds)
  const { height, width } = fitReadings(folds)
  const odds = fitOdds(folds)
  const markScore = scoreAtFalse(folds)
  const fitted = { model: fitModel(sounds), odds, markScore, height, width }
  const told = folds.flatMap((fold, f) => [
    reportRow(`fold ${f + 1}`, fold, { name: 'finding', score: -odds.offset / odds.slope }, fitted),
    reportRow(`fold ${f + 1}`, fold, { name: 'mark', score: markScore }, fitted),
  ])
  const ringing = sounds.filter((s) => s.ring).length
  const head = [
    `Sounds: ${FIT_SETS.join(' and ')}, ${sounds.length - ringing} untouched and ${ringing} ringing.`,
    `Played by ${versionsOfPlayers()}. Trees by bench/src/boosting.ts.`,
    'Each fourth of them by a model of the others (columns as `npm run rings` prints them):',
    ...told,
  ]
  writeTables(tablesOf(fitted, head))
  console.log([HEADER, ...told].join('\n'))
  return fitted
}

function score(fitted: FittedRings, sets: readonly string[]): void {
  const { odds, markScore } = fitted
  const isShipped = fitted === RING_FIT
  const finding = isShipped ? RING_LEVELS.finding : -odds.offset / odds.slope
  console.log(HEADER)
  const judged = sets.map((set): Judged => {
    const sounds = readAll([set])
    const one = { sounds, claims: claimsOf(sounds, fitted.model) }
    console.log(reportRow(set, one, { name: 'finding', score: finding }, fitted))
    const third = scoreAtFalse([one], 0.3)
    console.log(reportRow(set, one, { name: '0.3 false', score: third }, fitted))
    console.log(reportRow(set, one, { name: 'mark', score: markScore }, fitted))
    return one
  })
  const likely = (s: number) =>
    isShipped ? likelihoodOf(s) : 1 / (1 + Math.exp(-(odds.slope * s + odds.offset)))
  console.log(['', RELIABILITY_HEADER, ...reliability(judged, likely)].join('\n'))
}

prepareHost()
preparePlayers()
const words = process.argv.slice(2)
const sets = words.filter((w) => w !== '--fit')
score(words.includes('--fit') ? fitRings() : RING_FIT, sets.length > 0 ? sets : JUDGED_SETS)
