import { SMALL_SONE } from '@sober-prism/core/findings'
import { DEMO_SEED, demoClips, demoReferences, scoreSession } from '@sober-prism/demo'
import { prepareHost } from '../../cli/src/host'
import { judgeReal } from './real/judge'
import { readToJury } from './real/jury'
import { judgeLaws } from './real/laws'
import { listLost } from './real/playbacks'
import { preparePlayers } from './real/players'
import { lookAgain } from './real/second-looks'

/**
 * How many planted faults are found in generated sessions, as a table for docs/findings.md:
 * `npm run findings [SEED …]`. Without seeds: the demo's, and ten that were not used to set any constant.
 * `npm run findings -- --real [--tuning | --third] [--many] [--list] [SEED …]`: the same on sampled instruments and
 * synthetic voices, with eight tracks or two dozen; without `--tuning` by players that set no constant. With `--laws` both laws of
 * following across the spectrum instead, on each session's lead and what takes most from it. With `--jury` each session as a
 * person reads it: what was planted, what is offered, the plan, and what was measured once all of it was made. With `--look` what a second
 * look says once all that is offered was done, with and without faults. With `--through` who is lost behind each playback.
 */
const REAL_SEEDS = {
  tuning: [1, 2, 3, 4, 5, 6],
  judging: [51, 52, 53, 54, 55, 56, 57, 58, 59, 60],
  third: [201, 202, 203, 204, 205, 206, 207, 208, 209, 210],
}
const HELD_OUT = [101, 102, 103, 104, 105, 106, 107, 108, 109, 110]

prepareHost()
const words = process.argv.slice(2)
if (words.includes('--real')) {
  preparePlayers()
  const band =
    (['tuning', 'third'] as const).find((name) => words.includes(`--${name}`)) ?? 'judging'
  const seeds = words.map(Number).filter(Number.isFinite)
  const which = {
    band,
    seeds: seeds.length > 0 ? seeds : REAL_SEEDS[band],
    many: words.includes('--many'),
  } as const
  if (words.includes('--laws')) await judgeLaws(which)
  else if (words.includes('--jury')) await readToJury(which)
  else if (words.includes('--look')) await lookAgain(which)
  else if (words.includes('--through')) listLost(which)
  else judgeReal({ ...which, list: words.includes('--list') })
  process.exit(0)
}
const given = words.map(Number)
const seeds = given.length > 0 ? given : [DEMO_SEED, ...HELD_OUT]
const references = demoReferences(DEMO_SEED)
const missed = new Map<string, number>()
const total = { faults: 0, found: 0, first: 0, told: 0, right: 0, clean: 0 }
console.log(
  '| seed | faults found | among the first eight | findings | of them not planted | without faults: findings (small ones) |',
)
console.log('|---|---|---|---|---|---|')
for (const seed of seeds) {
  const scored = scoreSession(seed, true, demoClips(seed, true), references)
  const clean = scoreSession(seed, false, demoClips(seed, false), references)
  const found = scored.places.filter((p) => p.place !== null)
  const first = found.filter((p) => (p.place ?? 99) <= scored.places.length)
  for (const { fault, place } of scored.places) {
    if (place === null) missed.set(fault.note, (missed.get(fault.note) ?? 0) + 1)
  }
  const large = scored.findings.filter((f) => f.severity >= SMALL_SONE)
  const cleanLarge = clean.findings.filter((f) => f.severity >= SMALL_SONE).length
  console.log(
    `| ${seed} | ${found.length} of ${scored.places.length} | ${first.length} | ${scored.findings.length} | ${scored.others} | ${cleanLarge} (${clean.findings.length - cleanLarge}) |`,
  )
  if (seed === DEMO_SEED) continue
  total.faults += scored.places.length
  total.found += found.length
  total.first += first.length
  total.told += large.length
  total.right +=
    large.length - scored.findings.filter((f) => f.severity >= SMALL_SONE && f.unplanted).length
  total.clean += cleanLarge
}
const percent = (a: number, b: number) => `${((100 * a) / Math.max(1, b)).toFixed(0)} %`
console.log(
  `\nSeeds other than the demo's: recall ${percent(total.found, total.faults)}, ${percent(total.first, total.faults)} among the first eight; precision of findings that are not small ${percent(total.right, total.told)}; without faults ${(total.clean / Math.max(1, seeds.filter((s) => s !== DEMO_SEED).length)).toFixed(1)} findings a session that are not small.`,
)
console.log(
  `Missed: ${[...missed].map(([note, times]) => `${note} (${times})`).join(', ') || 'nothing'}.`,
)
