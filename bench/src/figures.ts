import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  analogueDb,
  designBand,
  type EqBand,
  FILTER_TYPES,
  type FilterType,
  logFrequencies,
  makeCrossover,
  newBand,
  planPhase,
  type ReadableFilter,
  readFilter,
  sectionsDb,
} from '@sober-prism/core/filters'
import { type Line, plotLog } from './plot-svg'

/** Draws docs/figures and prints the table of worst errors for docs/filters.md: `npm run figures`. */
const RATES = [44100, 48000, 96000]
const CENTRES = [
  20, 50, 120, 300, 700, 1500, 3000, 5000, 7000, 9000, 11000, 13000, 15000, 17000, 18000,
]
const QS = [0.3, 0.5, Math.SQRT1_2, 1, 2, 4, 8, 18]
const GAINS = [-18, -12, -6, -3, 3, 6, 12, 18]
const SLOPES = Array.from({ length: 16 }, (_, i) => 6 * (i + 1))
const GRID = logFrequencies(300)
const FLOOR_DB = -90

const band = (type: FilterType, change: Partial<EqBand>): EqBand => ({
  ...newBand(type, 1000),
  ...change,
})

function grid(type: FilterType): EqBand[] {
  const cut = type === 'low-cut' || type === 'high-cut'
  const gained = ['bell', 'low-shelf', 'high-shelf', 'tilt'].includes(type)
  const qs =
    type === 'tilt' ? [1] : cut ? [Math.SQRT1_2, 2] : type.endsWith('shelf') ? QS.slice(0, 6) : QS
  return CENTRES.flatMap((hz) =>
    qs.flatMap((q) =>
      (gained ? GAINS : [0]).flatMap((db) =>
        (cut ? SLOPES : [12]).map((slopeDbPerOct) => band(type, { hz, q, db, slopeDbPerOct })),
      ),
    ),
  )
}

/** Largest error over a type's grid, and where it lies. Notches count down to -30 dB. */
function worst(type: FilterType, rate: number): { db: number; text: string } {
  let db = 0
  let text = ''
  const floor = type === 'notch' ? -30 : FLOOR_DB
  for (const b of grid(type)) {
    const sections = designBand(b, rate)
    for (const hz of [...GRID, b.hz * 0.97, b.hz, b.hz * 1.03]) {
      const wanted = analogueDb(b, hz)
      if (hz > 20000 || wanted < floor) continue
      const error = Math.abs(sectionsDb(sections, hz, rate) - wanted)
      if (error <= db) continue
      db = error
      text = `${b.hz} Hz, Q ${b.q.toFixed(2)}${b.db ? `, ${b.db} dB` : ''}${type.endsWith('cut') ? `, ${b.slopeDbPerOct} dB/oct` : ''}`
    }
  }
  return { db, text }
}

const TYPES = FILTER_TYPES.filter((type) => type !== 'all-pass')
console.log(`| type | ${RATES.map((r) => `${r} Hz`).join(' | ')} | worst at 48000 Hz |`)
console.log(`|---|${RATES.map(() => '---|').join('')}---|`)
for (const type of TYPES) {
  const errors = RATES.map((rate) => worst(type, rate))
  const cells = errors.map((e) => `${e.db.toFixed(3)} dB`).join(' | ')
  console.log(`| ${type} | ${cells} | ${errors[1].text} |`)
}

const folder = join(import.meta.dirname, '..', '..', 'docs', 'figures')
mkdirSync(folder, { recursive: true })
const save = (name: string, svg: string) => writeFileSync(join(folder, `${name}.svg`), svg)
const RATE = 48000
const curve = (f: (hz: number) => number, style: Line['style'] = 'solid'): Line => ({
  points: [...GRID].map((hz) => [hz, f(hz)]),
  style,
})

const bells = [1000, 6000, 12000, 17000].map((hz) => band('bell', { hz, db: 12, q: 1 }))
save(
  'matched-bells',
  plotLog(
    'Bells of +12 dB, Q 1, at 48 kHz: ours (line) on the analogue curve (dots)',
    'dB',
    [-2, 14],
    [
      ...bells.map((b) => curve((hz) => sectionsDb(designBand(b, RATE), hz, RATE))),
      ...bells.map((b) => curve((hz) => analogueDb(b, hz), 'dotted')),
    ],
  ),
)

const chain = [
  band('low-cut', { hz: 35, slopeDbPerOct: 24 }),
  band('bell', { hz: 300, db: -5, q: 1.5 }),
  band('high-shelf', { hz: 8000, db: 4 }),
].map((b, i) => ({ id: `${i}`, band: b }))
const planned = (phase: 'minimum' | 'mixed' | 'linear'): ReadableFilter => {
  const plan = planPhase(chain, phase, RATE)
  return {
    sections: chain
      .filter(({ id }) => !plan.inFir.includes(id))
      .flatMap(({ band: b }) => designBand(b, RATE)),
    kernels: plan.firs.map((f) => f.kernels[0]),
    latency: plan.firs.reduce((sum, f) => sum + (f.kernels[0].length - 1) / 2, 0),
  }
}
const delayOf = (phase: 'minimum' | 'mixed' | 'linear', style: Line['style']): Line => ({
  points: readFilter(planned(phase), GRID, RATE).map((r) => [r.hz, r.groupDelayMs]),
  style,
})
save(
  'phase-modes',
  plotLog(
    'Group delay of one chain: minimum (line), mixed (dashes), linear (dots); latency taken out',
    'ms',
    [-2, 22],
    [delayOf('minimum', 'solid'), delayOf('mixed', 'dashed'), delayOf('linear', 'dotted')],
  ),
)

const spec = { kind: 'linkwitz-riley', hz: [150, 2500], slopeDbPerOct: 24 } as const
const crossover = makeCrossover(spec, RATE, 1)
const impulse = new Float32Array(4096)
impulse[0] = 1
const outputs = Array.from({ length: crossover.bands }, () => [new Float32Array(4096)])
crossover.process([impulse], outputs, 4096)
const branch = (taps: ArrayLike<number>): Line => ({
  points: readFilter({ sections: [], kernels: [taps], latency: 0 }, GRID, RATE).map((r) => [
    r.hz,
    r.db,
  ]),
  style: 'solid',
})
const sum = outputs[0][0].map((_, i) => outputs.reduce((a, b) => a + b[0][i], 0))
save(
  'crossover',
  plotLog(
    'Three bands at 150 Hz and 2.5 kHz, 24 dB per octave, and their sum (dots)',
    'dB',
    [-60, 6],
    [...outputs.map(([o]) => branch(o)), { ...branch(sum), style: 'dotted' }],
  ),
)
