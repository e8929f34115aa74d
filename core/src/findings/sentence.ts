import type { EqBand } from '../filters'
import type { Edit } from '../session'
import {
  activeBands,
  type FollowBand,
  kindOf,
  type LowEndSource,
  type Treatment,
} from '../treatments'
import type { Evidence, FindingKind } from './finding'

/** What a sentence needs of a finding: names in place of tracks. */
export interface NamedFinding {
  readonly kind: FindingKind
  readonly names: readonly string[]
  /** Names of the other tracks that its evidence tells of, in its order. */
  readonly othersNamed?: readonly string[]
  readonly fromHz: number
  readonly toHz: number
  readonly hz: number
  readonly evidence: Evidence
}

const MINUS = '−'
/** What a mono low end is made of. */
const MONO_FROM: Readonly<Record<LowEndSource, string>> = {
  both: '',
  turned: ', the right side inverted',
  left: ', from its left side',
  right: ', from its right side',
}

/** What a finding says, in a few words: `Accordion covers Singer`. */
export function findingTitle({ kind, names, hz, toHz, evidence }: NamedFinding): string {
  const [first = 'The mix', second = ''] = names
  switch (kind) {
    case 'masking':
      return `${first} masks ${second}`
    case 'intelligibility':
      return `Words of ${first} are hard to follow`
    case 'pile-up':
      return `Build-up in ${lowered(regionName(hz))}`
    case 'resonance':
      return `Resonance in ${first} at ${hertz(hz)}`
    case 'rumble':
      return `Rumble below ${first}`
    case 'harshness':
      return `${first} is harsh at ${hertz(hz)}`
    case 'hum':
      return `Hum in ${first} at ${hertz(hz)}`
    case 'wide-low-end':
      return `Wide low end in ${first} below ${hertz(toHz)}`
    case 'alignment':
      return `${first} and ${second} cancel`
    case 'balance': {
      const strong = evidence.kind === 'balance' && evidence.deviationDb > 0
      return `${regionName(hz)} of the mix ${regionVerb(hz)} too ${strong ? 'strong' : 'weak'}`
    }
  }
}

/** Where it was found and by which figures. */
export function findingEvidence(finding: NamedFinding): string {
  const { fromHz, toHz, names, othersNamed = [], evidence } = finding
  const span = `${hertz(fromHz)} to ${hertz(toHz)}`
  switch (evidence.kind) {
    case 'masking':
      return `${span}, ${evidence.where === 'sides' ? 'at the sides' : 'in the centre'}; ${percent(evidence.lostShare)} of ${names[1]} is masked there, in ${percent(evidence.timeShare)} of the passage${othersNamed.length > 0 ? `; the move also frees ${list(othersNamed)}` : ''}`
    case 'intelligibility':
      return `Speech Intelligibility Index ${evidence.sii.toFixed(2)}, ${evidence.least.toFixed(2)} is the least to aim for; lowest ${evidence.lowest.toFixed(2)}, ${evidence.lowestSeconds.toFixed(0)} s into the passage`
    case 'pile-up':
      return `${span}: ${list(names)}; ${decibel(evidence.excessDb)} above the target; they mask ${evidence.lostSone.toFixed(1)} sone of each other`
    case 'resonance':
      return `about ${evidence.heightDb.toFixed(0)} dB above neighbouring bands whatever is played, Q about ${evidence.q.toFixed(0)}${slower(evidence.decayRatio)}; ${likely(evidence.likelihood)}`
    case 'balance':
      return `${span}, ${decibel(Math.abs(evidence.deviationDb))} ${evidence.deviationDb > 0 ? 'above' : 'below'} ${evidence.target === 'slope' ? 'the slope' : 'the references'}, ±${evidence.toleranceDb.toFixed(1)} dB is normal${evidence.mostly ? `; ${percent(evidence.mostly.share)} of it is ${othersNamed[0]}` : ''}${evidence.target === 'slope' ? '; without references this is a weak sign' : ''}`
    case 'rumble':
      return `below ${hertz(toHz)}, ${decibel(evidence.levelDb)} relative to the track; the lowest note is ${hertz(evidence.lowestHz)}`
    case 'harshness':
      return `${span}; for ${percent(evidence.timeShare)} of the time ${decibel(evidence.excessDb)} above its own balance`
    case 'hum':
      return `${evidence.mainsHz} Hz hum: harmonics ${list(evidence.harmonics.map(String))} up to ${decibel(evidence.heightDb)} above neighbouring bands, constant through pauses; ${decibel(evidence.levelDb)} relative to the track`
    case 'wide-low-end':
      return `loses ${decibel(evidence.monoLossDb)} in mono; ${percent(evidence.sideShare)} of its power is side signal; correlation ${signed(evidence.lowestCorrelation, 1)} to ${signed(evidence.highestCorrelation, 1)}`
    case 'alignment':
      return `${span}: ${decibel(evidence.lostDb)} lost when summed; ${names[1]} is ${Math.abs(evidence.delayFrames).toFixed(1)} samples ${evidence.delayFrames >= 0 ? 'late' : 'early'}, phase ${signed(evidence.turnDeg, 0)}°`
  }
}

/** The tracks that a finding's evidence tells of besides those it is about, by id. */
export function othersOf(evidence: Evidence): readonly string[] {
  if (evidence.kind === 'masking') return evidence.freed
  return evidence.kind === 'balance' && evidence.mostly ? [evidence.mostly.track] : []
}

/** What an edit does, with the name of its node: `cut Accordion at 2.3 kHz by 4 dB, Q 1.2`. */
export function moveSentence(edit: Edit, name: string): string {
  switch (edit.kind) {
    case 'add-band':
      return bandSentence(edit.chainBand.band, name)
    case 'add-treatment':
      return treatmentSentence(edit.treatment, name)
    case 'set-node':
      return edit.change.faderDb === undefined
        ? `change ${name}`
        : `set the fader of ${name} to ${signed(edit.change.faderDb, 1)} dB`
    case 'change-output-gain':
    case 'change-trim':
      return `${edit.db > 0 ? 'raise' : 'lower'} ${name} by ${Math.abs(edit.db).toFixed(1)} dB`
    default:
      return `change ${name}`
  }
}

function treatmentSentence(treatment: Treatment, name: string): string {
  switch (treatment.kind) {
    case 'align': {
      const { delayFrames, polarity, turnDeg } = treatment.params
      const way = delayFrames < 0 ? 'earlier' : 'later'
      const parts = [
        `shift ${name} ${Number(Math.abs(delayFrames).toFixed(2))} samples ${way}`,
        polarity === -1 ? 'invert polarity' : null,
        turnDeg === 0 ? null : `rotate phase ${signed(turnDeg, 0)}°`,
      ].filter((p) => p !== null)
      return list(parts)
    }
    case 'drawn-curve':
      return `apply a drawn curve to ${name}`
    case 'low-middle':
      return `make ${name} mono below ${hertz(treatment.params.hz)}${MONO_FROM[treatment.params.from]}`
    case 'equaliser': {
      const bands = activeBands(treatment.params).map((m) => m.band)
      return bands.length > 2 && bands.every((b) => b.type === 'notch')
        ? `notch ${name} at ${bands.length} frequencies, ${hertz(bands[0].hz)} to ${hertz(bands[bands.length - 1].hz)}`
        : list(bands.map((b) => bandSentence(b, name)))
    }
    case 'follow': {
      const [band, more] = treatment.params.bands.filter((b) => b.on)
      if (!band || more) return kindSentence(treatment, name)
      const verb = band.rangeDb > 0 ? 'raise' : 'cut'
      return `${verb} ${name} at ${hertz(band.hz)} by up to ${Math.abs(band.rangeDb)} dB, Q ${band.q}, ${when(band)}`
    }
    default:
      return kindSentence(treatment, name)
  }
}

/** When a band that follows is drawn. */
function when({ listens, threshold }: FollowBand): string {
  if (listens.to !== 'itself') return 'while its key sounds'
  return `only above ${signed(threshold.db, 0)} dB there`
}

function kindSentence(treatment: Treatment, name: string): string {
  const { name: kind, describe } = kindOf(treatment.kind)
  return `${kind.toLowerCase()} on ${name}: ${describe(treatment.params)}`
}

function bandSentence(band: EqBand, owner: string): string {
  const verb = band.db > 0 ? 'raise' : 'cut'
  switch (band.type) {
    case 'notch':
      return `notch ${owner} at ${hertz(band.hz)}`
    case 'low-cut':
      return `low cut on ${owner} at ${hertz(band.hz)}, ${band.slopeDbPerOct} dB/oct`
    case 'low-shelf':
    case 'high-shelf': {
      const side = band.type === 'low-shelf' ? 'below' : 'above'
      return `${verb} ${owner} ${side} ${hertz(band.hz)} by ${Math.abs(band.db)} dB`
    }
    default:
      return `${verb} ${owner} at ${hertz(band.hz)} by ${Math.abs(band.db)} dB, Q ${band.q}`
  }
}

/** Under this likelihood it is said that a body or a formant would look the same. */
const SURE = 0.75

function likely(likelihood: number): string {
  const share = `${percent(likelihood)} likely`
  return likelihood < SURE ? `${share} a resonance, otherwise the instrument itself` : share
}

/** A ring that dies away noticeably slower says so. */
function slower(ratio: number | null): string {
  return ratio !== null && ratio >= 1.2 ? `, decays ${ratio.toFixed(1)} times slower` : ''
}

const REGIONS: readonly (readonly [number, string, 'is' | 'are'])[] = [
  [60, 'The lowest octave', 'is'],
  [130, 'The low end', 'is'],
  [250, 'The upper bass', 'is'],
  [520, 'The low mids', 'are'],
  [1200, 'The mids', 'are'],
  [2600, 'The upper mids', 'are'],
  [5500, 'The presence range', 'is'],
  [Number.POSITIVE_INFINITY, 'The top', 'is'],
]

function regionName(hz: number): string {
  return region(hz)[1]
}

function lowered(name: string): string {
  return name[0].toLowerCase() + name.slice(1)
}

function regionVerb(hz: number): string {
  return region(hz)[2]
}

function region(hz: number): (typeof REGIONS)[number] {
  return REGIONS.find(([below]) => hz < below) ?? REGIONS[REGIONS.length - 1]
}

function hertz(hz: number): string {
  if (hz >= 1000) return `${(hz / 1000).toFixed(hz >= 10000 ? 1 : 2)} kHz`
  return `${hz.toFixed(hz >= 100 ? 0 : 1)} Hz`
}

function signed(value: number, decimals: number): string {
  const text = Math.abs(value).toFixed(decimals)
  return value < 0 && Number(text) !== 0 ? `${MINUS}${text}` : text
}

function decibel(db: number): string {
  return `${signed(db, 1)} dB`
}

function percent(share: number): string {
  return `${(100 * share).toFixed(0)} %`
}

function list(names: readonly string[]): string {
  return names.length < 2
    ? names.join('')
    : `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`
}
