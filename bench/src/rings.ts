import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type Clip, readWav } from '@sober-prism/core/audio'
import {
  CELLS,
  type Features,
  hzOfCell,
  leaveOutEdge,
  levelGrids,
  meanProfile,
  RING_LEVELS,
  RING_PLACES,
  rankPlaces,
  readBell,
  ringFeatures,
  ringScores,
  rowAt,
  sumOfTrees,
  topPlaces,
} from '@sober-prism/core/findings/rings'
import { prepareHost } from '../../cli/src/host'
import { fitTrees } from './boosting'
import { fitLogistic } from './logistic'
import type { BANDS } from './real/parts'
import { preparePlayers } from './real/players'
import { ringingParts } from './real/ringing-songs'

/**
 * How many planted rings are found in realistic sounds: `npm run rings -- DIR… [--fit DIR…]`. The folders hold what the
 * maker of realistic sounds wrote: sounds and `rings.csv`; `songs:judging:100-111` in their place is parts of songs that are made here
 * ({@link ringingParts}). With `--fit` weights and trees are fitted on those folders
 * first, and left in /tmp as they stand in core/src/findings/rings. With `--levels` the levels of claims are read off the folders, at 0.3
 * and 0.6 false claims a clean track.
 */
interface Sound {
  readonly base: string
  readonly features: Features
  readonly mean: Float64Array
  /** Takes out of scores what is never claimed. */
  readonly trim: (scores: Float64Array) => Float64Array
  /** The planted ring; null in an untouched sound. */
  readonly ring: {
    readonly hz: number
    readonly db: number
    readonly q: number
    readonly rise: number
  } | null
}

/** Sounds of a folder, or parts of songs: `songs:PLAYERS:FROM-TO`. */
function readSounds(from: string): Sound[] {
  const [kind, players, seeds] = from.split(':')
  if (kind !== 'songs') return readFolder(from)
  const [first, last] = seeds.split('-').map(Number)
  const each = Array.from({ length: last - first + 1 }, (_, i) => first + i)
  return ringingParts(players as keyof typeof BANDS, each).map(({ base, clip, ring }) =>
    readSound(base, clip, ring),
  )
}

function readFolder(folder: string): Sound[] {
  const [, ...lines] = readFileSync(join(folder, 'rings.csv'), 'utf8').trim().split(/\r?\n/)
  return lines.map((line) => {
    const [file, base, , , , hz, db, q, , rise] = line.split(',')
    const clip = readWav(new Uint8Array(readFileSync(join(folder, file))))
    const ring = hz ? { hz: Number(hz), db: Number(db), q: Number(q), rise: Number(rise) } : null
    return readSound(`${folder} ${base}`, clip, ring)
  })
}

function readSound(base: string, { channels, sampleRateHz }: Clip, ring: Sound['ring']): Sound {
  const { levels, floor } = levelGrids(channels[0], sampleRateHz)
  // Of the levels only the edge is kept.
  const open = new Float64Array(CELLS)
  leaveOutEdge(open, levels)
  const trim = (scores: Float64Array) => scores.map((s, c) => s + open[c])
  return { base, features: ringFeatures(levels, floor), mean: meanProfile(levels), trim, ring }
}

const TREES = { trees: 240, rate: 0.06, penalty: 5, leastInAnswer: 20 }

/** Trees over the likeliest places of sounds, by the sum of a model. */
function fitJudge(sounds: readonly Sound[], { weights, intercept }: ReturnType<typeof fitModel>) {
  const rows: Float64Array[] = []
  const labels: number[] = []
  for (const { features, trim, ring } of sounds) {
    const scores = trim(ringScores(features, weights, intercept))
    for (const { cell } of topPlaces(scores, RING_PLACES)) {
      rows.push(rowAt(features, scores, Math.round(cell)))
      labels.push(isAt(ring, cell) ? 1 : 0)
    }
  }
  return fitTrees(rows, labels, TREES)
}

const isAt = (ring: Sound['ring'], cell: number) =>
  ring !== null && Math.abs(hzOfCell(cell) / ring.hz - 1) < 0.03

const cellAt = (hz: number) => 48 * Math.log2(hz / hzOfCell(0))

function fitAll(sounds: readonly Sound[]) {
  const model = fitModel(sounds)
  return { ...model, trees: fitJudge(sounds, model) }
}

function fitModel(sounds: readonly Sound[]) {
  const names = [...sounds[0].features.keys()]
  const rows: Float64Array[] = []
  const labels: number[] = []
  const counts: number[] = []
  for (const { features, ring, trim } of sounds) {
    const open = trim(new Float64Array(CELLS))
    for (let c = 20; c < CELLS - 20; c++) {
      if (open[c] !== 0) continue
      const away = ring ? Math.abs(c - cellAt(ring.hz)) : Number.POSITIVE_INFINITY
      const isRing = away <= 1.6
      if (!isRing && (away <= 8 || c % 4 !== 0)) continue
      rows.push(Float64Array.from(names, (n) => features.get(n)?.[c] ?? 0))
      labels.push(isRing ? 1 : 0)
      counts.push(isRing ? 6 : 1)
    }
  }
  const mean = names.map((_, i) => rows.reduce((s, r) => s + r[i], 0) / rows.length)
  const sd = names.map(
    (_, i) => Math.sqrt(rows.reduce((s, r) => s + (r[i] - mean[i]) ** 2, 0) / rows.length) || 1,
  )
  for (const row of rows) {
    for (let i = 0; i < names.length; i++)
      row[i] = Math.max(-4, Math.min(4, (row[i] - mean[i]) / sd[i]))
  }
  const { intercept, weights } = fitLogistic(rows, labels, counts, 3)
  return {
    intercept,
    weights: names.map((name, i) => ({ name, mean: mean[i], sd: sd[i], weight: weights[i] })),
  }
}

type Model = ReturnType<typeof fitAll>

function score(sounds: readonly Sound[], model: Model | null) {
  const judge =
    model && ((row: Float64Array) => model.trees.intercept + sumOfTrees(row, model.trees.table))
  const claims = sounds.map((s) => {
    const scores = s.trim(ringScores(s.features, model?.weights, model?.intercept))
    return rankPlaces(s.features, scores, undefined, judge ?? undefined)
  })
  const clean = sounds.flatMap((s, i) => (s.ring ? [] : [claims[i]]))
  const thresholdFor = (perTrack: number) => {
    const all = clean
      .flat()
      .map((c) => c.score)
      .sort((a, b) => b - a)
    return all[Math.floor(perTrack * clean.length)] ?? Number.POSITIVE_INFINITY
  }
  return { claims, clean, thresholdFor }
}

function report(
  name: string,
  sounds: readonly Sound[],
  model: Model | null,
  thresholds: readonly number[] | null,
) {
  const { claims, clean, thresholdFor } = score(sounds, model)
  const used = thresholds ?? [thresholdFor(0.3), thresholdFor(0.6)]
  for (const threshold of used) {
    let [found, all, clearFound, clear, falls, dbOff, qOff, near] = [0, 0, 0, 0, 0, 0, 0, 0]
    sounds.forEach(({ ring, mean }, i) => {
      if (!ring) return
      all++
      const isClear = ring.db >= 9 && ring.rise >= 3
      if (isClear) clear++
      const hit = claims[i].find((c) => c.score >= threshold && isAt(ring, c.cell))
      if (!hit) return
      found++
      if (!isClear) return
      clearFound++
      const bell = readBell(mean, hit.cell)
      near++
      if (Math.abs(bell.db - ring.db) <= 4) dbOff++
      if (Math.abs(Math.log(bell.q / ring.q)) <= Math.log(1.6)) qOff++
    })
    falls = clean.flat().filter((c) => c.score >= threshold).length / Math.max(1, clean.length)
    const percent = (a: number, b: number) => `${((100 * a) / Math.max(1, b)).toFixed(0)} %`
    console.log(
      `| ${name} | ${threshold.toFixed(2)} | ${falls.toFixed(2)} | ${percent(found, all)} of ${all} | ${percent(clearFound, clear)} of ${clear} | ${percent(dbOff, near)} | ${percent(qOff, near)} |`,
    )
  }
  return used
}

/** Claims below this say nothing of those that are told. */
const LEAST_ODDS = -4

/** How likely claims are right, by score, when a third of sounds have a ring. */
function calibrate(sounds: readonly Sound[], model: Model | null): void {
  const { claims } = score(sounds, model)
  const rows: Float64Array[] = []
  const labels: number[] = []
  const counts: number[] = []
  sounds.forEach(({ ring }, i) => {
    for (const { cell, score: s } of claims[i]) {
      if (s < LEAST_ODDS) continue
      const isRight = isAt(ring, cell)
      // A third claim beside a planted ring is as false as one in an untouched sound.
      rows.push(Float64Array.of(s))
      labels.push(isRight ? 1 : 0)
      counts.push(ring ? 0.25 : 1)
    }
  })
  const { intercept, weights } = fitLogistic(rows, labels, counts, 0.01)
  console.log(`likelihood: slope ${weights[0].toFixed(2)}, offset ${intercept.toFixed(2)}`)
}

prepareHost()
if (process.argv.some((w) => w.startsWith('songs:'))) preparePlayers()
const words = process.argv.slice(2)
const readsLevels = words.includes('--levels')
const given = words.filter((w) => w !== '--levels')
const at = given.indexOf('--fit')
const judged = at < 0 ? given : given.slice(0, at)
const fitted = at < 0 ? [] : given.slice(at + 1)
console.log(
  '| sounds | threshold | false claims a clean track | found | clear ones found | depth within 4 dB | Q within 1.6 |',
)
console.log('|---|---|---|---|---|---|---|')
if (fitted.length > 0) {
  const sounds = fitted.flatMap(readSounds)
  const model = fitAll(sounds)
  report('fitted on', sounds, model, null)
  // Thresholds come from folds: each fourth of the sounds is judged by weights of the others.
  const thresholds = [0, 0]
  const FOLDS = 4
  const bases = [...new Set(sounds.map((s) => s.base))]
  for (let f = 0; f < FOLDS; f++) {
    const held = new Set(bases.filter((_, i) => i % FOLDS === f))
    const others = fitAll(sounds.filter((s) => !held.has(s.base)))
    const used = report(
      `fold ${f + 1}`,
      sounds.filter((s) => held.has(s.base)),
      others,
      null,
    )
    used.forEach((t, i) => {
      thresholds[i] += t / FOLDS
    })
  }
  for (const folder of judged) report(folder, readSounds(folder), model, thresholds)
  const table = model.weights
    .map(
      ({ name, mean, sd, weight }) =>
        `  { name: '${name}', mean: ${mean.toFixed(4)}, sd: ${sd.toFixed(4)}, weight: ${weight.toFixed(4)} },`,
    )
    .join('\n')
  writeFileSync(
    '/tmp/ring-weights.txt',
    `${model.intercept.toFixed(4)}\n${table}\n${thresholds.join(' ')}\n`,
  )
  const { intercept, table: numbers } = model.trees
  const short = numbers.map((v) => Number(v.toPrecision(4)))
  writeFileSync('/tmp/ring-trees.txt', `${intercept.toFixed(4)}\n${short.join(', ')}\n`)
} else {
  if (readsLevels) report('levels read off', judged.flatMap(readSounds), null, null)
  else {
    for (const folder of judged) {
      const sounds = readSounds(folder)
      report(folder, sounds, null, [RING_LEVELS.finding, RING_LEVELS.mark])
      calibrate(sounds, null)
    }
  }
}
