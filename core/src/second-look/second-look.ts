import { type EqBand, magnitudeDb } from '../filters'
import { effectOfBands, LEVEL_BANDS } from '../findings'
import type { Calibration } from '../hearing'
import {
  type Chain,
  type Edit,
  groupsAbove,
  isVoice,
  routedNode,
  type Session,
  traitWords,
} from '../session'
import { type ChainBand, kindOf, MIX, MOST_BANDS, type Treatment } from '../treatments'
import { looksOfHistory } from './from-history'

export type LookKind =
  | 'lead-lost'
  | 'large-boost'
  | 'undone'
  | 'nothing-there'
  | 'sibilant-boost'
  | 'not-heard'
  | 'equalisers'
  | 'many'
  | 'only-louder'
  | 'to-and-fro'
  | 'made-alone'
  | 'no-reason'

/** One move, or several, that deserve a second look, with one answer to press. */
export interface Look {
  /** The same for the same thing as long as its moves are there. */
  readonly key: string
  readonly kind: LookKind
  readonly node: string
  /** The treatment that it is about; null where it is about a whole chain, or all of them. */
  readonly treatment: string | null
  readonly band: string | null
  readonly what: string
  readonly why: string
  /** What was measured or counted. */
  readonly evidence: string
  /** Null where nothing can be done at a press. */
  readonly answer: { readonly name: string; readonly edits: readonly Edit[] } | null
}

export interface LookInput {
  readonly session: Session
  /**
   * Level of a node behind its chain and at its level in the mix, per sixth of an octave (`LEVEL_BANDS`), in dB re a mean
   * square of 1; null where it is not known.
   */
  levelsOf(node: string): ArrayLike<number> | null
  /** Share of each lead's loudness that is heard now, and with every treatment left out; empty where not known. */
  readonly heard: ReadonlyMap<string, number>
  readonly heardBare: ReadonlyMap<string, number>
  readonly calibration: Calibration
  /** Earlier states of the session, oldest first, as far as they are known. */
  readonly past?: readonly Session[]
}

/** A broad boost is a bell at most so narrow; common practice begins at 3 dB, and 9 dB are far too much on a voice. */
const BROAD_Q = 2
const LARGE_DB = 6
const LARGE_ON_VOICE_DB = 5
/** Sibilants lie here; a boost of so much there is heard as sharpness. */
const SIBILANT_HZ = [3000, 10_000] as const
const SIBILANT_DB = 4
/** Less than this that comes or goes is told apart by nobody. */
const LEAST_SONE = 0.05
/** A boost where the source stands so far under its loudest place, boosted already, has nothing to raise. */
const NOTHING_DB = 50
/** Boost and cut of one place: centres within a third of an octave, widths within this ratio. */
const SAME_OCTAVES = 1 / 6
const SAME_Q = 1.6
/** What is left of them is so much less than the smaller of both. */
const LEFT_SHARE = 0.5
const LEAST_UNDONE_DB = 2
const LEAST_UNDONE_ABOVE_DB = 3
const MANY = 8
const LOST_SHARE = 0.03
/** An equaliser that gives no more shape than this where its source sounds, but this much of level. */
const NO_SHAPE_DB = 0.6
const LEAST_LOUDER_DB = 1
/** Where a source sounds: so far under its loudest place at most. */
const SOUNDS_DB = 30
/** Moves of so much, and so many of them, are worth a word of why. */
const WORTH_REASON_DB = 3
const MANY_WITHOUT = 5

interface PlacedBand {
  readonly node: string
  readonly treatment: Extract<Treatment, { kind: 'equaliser' }>
  readonly chainBand: ChainBand
}

/** A second look at the moves of a session, what matters most first; nothing where all is well. */
export function secondLook(input: LookInput): Look[] {
  const { session } = input
  const bands = bandsOf(session)
  const taken = new Set<string>()
  const once = (looks: readonly Look[]) =>
    looks.filter(({ band }) => {
      if (band === null) return true
      const isNew = !taken.has(band)
      taken.add(band)
      return isNew
    })
  return [
    ...leadsLost(input),
    ...once(bands.flatMap((b) => nothingThere(input, b))),
    ...once(bands.flatMap((b) => largeBoost(session, b))),
    ...once(undone(session, bands)),
    ...once(bands.flatMap((b) => sibilantBoost(session, b))),
    ...once(bands.flatMap((b) => notHeard(input, b))),
    ...chains(session).flatMap(([node, chain]) => [
      ...equalisers(session, node, chain),
      ...many(session, node, chain),
      ...onlyLouder(input, node, chain),
    ]),
    ...once(looksOfHistory(session, input.past ?? [])),
    ...noReason(session, bands),
  ].sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind))
}

const ORDER: readonly LookKind[] = [
  'lead-lost',
  'large-boost',
  'nothing-there',
  'undone',
  'sibilant-boost',
  'only-louder',
  'not-heard',
  'made-alone',
  'to-and-fro',
  'equalisers',
  'many',
  'no-reason',
]

function chains({ tracks, groups, mix }: Session): (readonly [string, Chain])[] {
  return [...[...tracks, ...groups].map((n) => [n.id, n.chain] as const), [MIX, mix.chain] as const]
}

/** All bands that are on, in equalisers that are on. */
function bandsOf(session: Session): PlacedBand[] {
  return chains(session).flatMap(([node, chain]) =>
    chain.treatments.flatMap((treatment) =>
      treatment.kind === 'equaliser' && treatment.on
        ? treatment.params.bands
            .filter((b) => b.on)
            .map((chainBand) => ({ node, treatment, chainBand }))
        : [],
    ),
  )
}

const nameOf = (session: Session, node: string) =>
  node === MIX ? 'Mix' : (routedNode(session, node)?.name ?? '')

function isOnVoice(session: Session, node: string): boolean {
  const track = session.tracks.find((t) => t.id === node)
  return track !== undefined && isVoice(track.role)
}

const isShelf = ({ type }: EqBand) => type === 'low-shelf' || type === 'high-shelf'
const isBroad = (band: EqBand) => isShelf(band) || (band.type === 'bell' && band.q < BROAD_Q)
const wordsOf = ({ chainBand }: PlacedBand) =>
  traitWords({ of: 'band', band: chainBand.band, on: true })

function lookAt(
  session: Session,
  placed: PlacedBand,
  kind: LookKind,
  words: Pick<Look, 'why' | 'evidence' | 'answer'>,
): Look {
  const { node, treatment, chainBand } = placed
  return {
    key: `${kind} ${node} ${chainBand.id}`,
    kind,
    node,
    treatment: treatment.id,
    band: chainBand.id,
    what: `${nameOf(session, node)}: ${wordsOf(placed)}`,
    ...words,
  }
}

const setDb = ({ node, treatment, chainBand }: PlacedBand, db: number): Edit => ({
  kind: 'set-band',
  node,
  treatment: treatment.id,
  band: chainBand.id,
  change: { band: { db } },
})
const remove = ({ node, treatment, chainBand }: PlacedBand): Edit => ({
  kind: 'remove-band',
  node,
  treatment: treatment.id,
  band: chainBand.id,
})
const half = (db: number) => Math.round(5 * db) / 10

function leadsLost({ session, heard, heardBare }: LookInput): Look[] {
  return session.leadIds.flatMap((node): Look[] => {
    const [now, bare] = [heard.get(node), heardBare.get(node)]
    if (now === undefined || bare === undefined || now > bare - LOST_SHARE) return []
    const percent = (share: number) => `${Math.round(100 * share)} %`
    return [
      {
        key: `lead-lost ${node}`,
        kind: 'lead-lost',
        node,
        treatment: null,
        band: null,
        what: `${nameOf(session, node)} is heard less than without all treatments`,
        why: 'All moves together have cost a lead part of what is heard of it.',
        evidence: `${percent(bare)} heard without them, ${percent(now)} now`,
        answer: null,
      },
    ]
  })
}

function largeBoost(session: Session, placed: PlacedBand): Look[] {
  const { band } = placed.chainBand
  const isVoiced = isOnVoice(session, placed.node)
  if (!isBroad(band) || band.db <= (isVoiced ? LARGE_ON_VOICE_DB : LARGE_DB)) return []
  const db = half(band.db)
  return [
    lookAt(session, placed, 'large-boost', {
      why: isVoiced
        ? 'A broad boost of that much changes a voice; half of it is often enough, or cuts beside it.'
        : 'A broad boost of that much is rarely needed; half of it is often enough, or cuts beside it.',
      evidence: `+${band.db.toFixed(1)} dB, ${isShelf(band) ? 'a shelf' : `Q ${band.q.toFixed(1)}`}; 3 dB are a usual start`,
      answer: { name: `Halve it to +${db.toFixed(1)} dB`, edits: [setDb(placed, db)] },
    }),
  ]
}

/** How far a band's place stands under the loudest place of its node, in dB, as it is boosted. */
function underLoudest(levels: ArrayLike<number>, band: EqBand, rateHz: number): number {
  const centres = LEVEL_BANDS.map((b) => Math.min(b.hz, 0.49 * rateHz))
  const own = magnitudeDb([band], centres, rateHz)
  let [top, place] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (let i = 0; i < centres.length; i++) {
    top = Math.max(top, levels[i])
    // What it raises by half or more.
    if (own[i] >= band.db / 2) place = Math.max(place, levels[i])
  }
  return top - place
}

function nothingThere(input: LookInput, placed: PlacedBand): Look[] {
  const { session, levelsOf } = input
  const { band } = placed.chainBand
  const levels = levelsOf(placed.node)
  if (!levels || band.db < 2 || !(isShelf(band) || band.type === 'bell')) return []
  const under = underLoudest(levels, band, session.sampleRateHz)
  if (under < NOTHING_DB) return []
  return [
    lookAt(session, placed, 'nothing-there', {
      why: 'Nothing of the source sounds there: it raises noise at most.',
      evidence: `${Math.round(under)} dB under its loudest place, with the boost`,
      answer: { name: 'Take it out', edits: [remove(placed)] },
    }),
  ]
}

function sibilantBoost(session: Session, placed: PlacedBand): Look[] {
  const { band } = placed.chainBand
  const [low, high] = SIBILANT_HZ
  const isThere = band.hz >= low && band.hz <= high && (band.type === 'bell' || isShelf(band))
  if (!isThere || band.type === 'low-shelf' || band.db < SIBILANT_DB) return []
  if (!isOnVoice(session, placed.node)) return []
  const db = half(band.db)
  return [
    lookAt(session, placed, 'sibilant-boost', {
      why: 'S and T lie there: they rise as much as the words. Brightness without them begins above 10 kHz.',
      evidence: `+${band.db.toFixed(1)} dB between 3 and 10 kHz`,
      answer: { name: `Halve it to +${db.toFixed(1)} dB`, edits: [setDb(placed, db)] },
    }),
  ]
}

function notHeard({ session, levelsOf, calibration }: LookInput, placed: PlacedBand): Look[] {
  const { band } = placed.chainBand
  // Cuts below a source are made for what is not heard, and notches for tones that come and go.
  if (!(isShelf(band) || band.type === 'bell' || band.type === 'tilt')) return []
  const levels = levelsOf(placed.node)
  if (!levels) return []
  const effect = effectOfBands([band], levels, 'with', session.sampleRateHz, calibration)
  if (effect.sone >= LEAST_SONE) return []
  return [
    lookAt(session, placed, 'not-heard', {
      why: 'Nobody hears it, even of this track alone.',
      evidence: `${effect.sone.toFixed(2)} sone come or go; less than ${LEAST_SONE} are not told apart`,
      answer: { name: 'Take it out', edits: [remove(placed)] },
    }),
  ]
}

/** A boost and a cut of one place, in one chain or one behind the other. */
function undone(session: Session, bands: readonly PlacedBand[]): Look[] {
  return bands.flatMap((a, i) =>
    bands.slice(i + 1).flatMap((b): Look[] => {
      const [x, y] = [a.chainBand.band, b.chainBand.band]
      if (x.type !== y.type || x.channel !== y.channel || x.db * y.db >= 0) return []
      if (!(isShelf(x) || x.type === 'bell')) return []
      const isSame = a.node === b.node
      if (!isSame && !isBehind(session, a.node, b.node)) return []
      const smaller = Math.min(Math.abs(x.db), Math.abs(y.db))
      if (smaller < (isSame ? LEAST_UNDONE_DB : LEAST_UNDONE_ABOVE_DB)) return []
      if (Math.abs(Math.log2(x.hz / y.hz)) > SAME_OCTAVES) return []
      if (Math.max(x.q / y.q, y.q / x.q) > SAME_Q) return []
      const left = x.db + y.db
      if (Math.abs(left) > LEFT_SHARE * smaller) return []
      const [keep, drop] = Math.abs(x.db) >= Math.abs(y.db) ? [a, b] : [b, a]
      const db = Math.round(10 * left) / 10
      const where = isSame ? '' : ` and on ${nameOf(session, b.node)}`
      return [
        {
          ...lookAt(session, a, 'undone', {
            why: `One raises what the other lowers${where}: together they do next to nothing.`,
            evidence: `${wordsOf(a)} and ${wordsOf(b)} leave ${left.toFixed(1)} dB`,
            // Of a group or the mix, the other one is there for other tracks too.
            answer: isSame
              ? { name: 'Take both together', edits: [remove(drop), setDb(keep, db)] }
              : null,
          }),
          key: `undone ${a.chainBand.id} ${b.chainBand.id}`,
        },
      ]
    }),
  )
}

const isBehind = (session: Session, node: string, other: string) =>
  node !== MIX && (other === MIX || groupsAbove(session, node).some((g) => g.id === other))

/** Equalisers that follow each other in one stage and one phase: one does the same. */
function equalisers(session: Session, node: string, chain: Chain): Look[] {
  const runs: Extract<Treatment, { kind: 'equaliser' }>[][] = []
  let before: Treatment | null = null
  for (const treatment of chain.treatments) {
    if (treatment.kind === 'equaliser' && treatment.on) {
      const goesOn =
        before?.kind === 'equaliser' &&
        before.on &&
        before.stage === treatment.stage &&
        before.params.phase === treatment.params.phase
      if (goesOn) runs[runs.length - 1].push(treatment)
      else runs.push([treatment])
    }
    before = treatment
  }
  return runs.flatMap((run): Look[] => {
    const [first, ...others] = run
    const bands = others.flatMap((t) => t.params.bands)
    if (others.length === 0 || first.params.bands.length + bands.length > MOST_BANDS) return []
    const taken = new Set(first.params.bands.map((b) => b.id))
    const edits: Edit[] = [
      ...others.map((t): Edit => ({ kind: 'remove-treatment', node, treatment: t.id })),
      ...bands.map((chainBand, i): Edit => {
        const id = taken.has(chainBand.id) ? `${chainBand.id}-${i}` : chainBand.id
        taken.add(id)
        return {
          kind: 'add-band',
          node,
          stage: first.stage,
          treatment: first.id,
          newTreatment: first.id,
          chainBand: { ...chainBand, id },
        }
      }),
    ]
    return [
      {
        key: `equalisers ${node} ${first.id}`,
        kind: 'equalisers',
        node,
        treatment: first.id,
        band: null,
        what: `${nameOf(session, node)}: ${run.length} equalisers one after the other`,
        why: 'One with all their bands sounds the same, and is easier to read.',
        evidence: `${run.length} equalisers of ${first.params.phase} phase in one stage, ${first.params.bands.length + bands.length} bands`,
        answer: { name: 'Join them', edits },
      },
    ]
  })
}

function many(session: Session, node: string, { treatments }: Chain): Look[] {
  const on = treatments.filter((t) => t.on)
  if (on.length < MANY) return []
  return [
    {
      key: `many ${node}`,
      kind: 'many',
      node,
      treatment: null,
      band: null,
      what: `${nameOf(session, node)}: ${on.length} treatments`,
      why: 'So many on one track often answer each other. Listen without its chain.',
      evidence: on.map((t) => kindOf(t.kind).name).join(', '),
      answer: null,
    },
  ]
}

/** An equaliser that does to its source what a gain would. */
function onlyLouder({ session, levelsOf }: LookInput, node: string, { treatments }: Chain): Look[] {
  const levels = levelsOf(node)
  if (!levels) return []
  const centres = LEVEL_BANDS.map((b) => Math.min(b.hz, 0.49 * session.sampleRateHz))
  const top = Array.from(levels).reduce((most, v) => Math.max(most, v), -400)
  const sounds = centres.flatMap((_, i) => (levels[i] > top - SOUNDS_DB ? [i] : []))
  return treatments.flatMap((t): Look[] => {
    if (t.kind !== 'equaliser' || !t.on) return []
    const bands = t.params.bands.filter((b) => b.on).map((b) => b.band)
    if (bands.length === 0 || bands.some((b) => b.channel !== 'stereo')) return []
    const db = magnitudeDb(bands, centres, session.sampleRateHz)
    const here = sounds.map((i) => db[i])
    const mean = here.reduce((sum, v) => sum + v, 0) / Math.max(1, here.length)
    const span = Math.max(...here) - Math.min(...here)
    if (span > NO_SHAPE_DB || Math.abs(mean) < LEAST_LOUDER_DB) return []
    const by = `${mean > 0 ? '+' : ''}${mean.toFixed(1)} dB`
    return [
      {
        key: `only-louder ${node} ${t.id}`,
        kind: 'only-louder',
        node,
        treatment: t.id,
        band: null,
        what: `${nameOf(session, node)}: an equaliser that only makes it ${mean > 0 ? 'louder' : 'softer'}`,
        why: 'Where its source sounds it does what a gain does. Louder alone is easily taken for better.',
        evidence: `${by} everywhere the source sounds, within ${span.toFixed(1)} dB`,
        answer: {
          name: `Take it out, output ${by}`,
          edits: [
            { kind: 'remove-treatment', node, treatment: t.id },
            { kind: 'change-output-gain', node, db: mean },
          ],
        },
      },
    ]
  })
}

/** Large moves of which nobody wrote what they are for: told once for all of them. */
function noReason(session: Session, bands: readonly PlacedBand[]): Look[] {
  const without = bands.filter(
    ({ chainBand: { band, reason, evidence } }) =>
      reason === '' && evidence === null && Math.abs(band.db) >= WORTH_REASON_DB,
  )
  if (without.length < MANY_WITHOUT) return []
  const names = [...new Set(without.map(({ node }) => nameOf(session, node)))]
  return [
    {
      key: 'no-reason',
      kind: 'no-reason',
      node: without[0].node,
      treatment: null,
      band: null,
      what: `${without.length} large moves have no reason written`,
      why: 'A word of what each is for tells next week, or somebody else, whether it still is.',
      evidence: `of ${WORTH_REASON_DB} dB and more, on ${names.slice(0, 6).join(', ')}${names.length > 6 ? ' and others' : ''}`,
      answer: null,
    },
  ]
}
