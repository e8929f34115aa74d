import { type Clip, makeClip, type Random } from '@sober-prism/core/audio'
import type { EqBand } from '@sober-prism/core/filters'
import { measureLoudness } from '@sober-prism/core/loudness'
import { longTermPower } from '@sober-prism/core/spectrum'
import { addInto, band, type Planted, RATE_HZ, shape, turnPhase } from '@sober-prism/demo'
import {
  coveredShare,
  excessDb,
  HEARD_DB,
  LEAST_COVERED,
  LEAST_EXCESS_DB,
  LEAST_HISS,
  LEAST_RISING,
  risingShares,
  strongestHiss,
  THIRDS,
} from './fault-measures'
import type { Part } from './parts'

/** A session with faults put in, and the table that says where they lie. */
interface Faulty {
  readonly parts: readonly Part[]
  readonly table: readonly Planted[]
}

/**
 * Plants one fault of every kind: a bed over the lead, a ring, rumble, hum, sibilants, a wide low end, a second microphone that is late and turned; and low mids that pile up, or a
 * mix too dark or bright.
 * Each goes where a source for it is; what there is none for is left out. What is put in and is no fault by measure is not told: a bed that takes
 * next to nothing of the lead, low mids that other mixes have as well, sibilants no louder than before.
 * @param usual what other mixes have: the long-term power of each of {@link THIRDS}, over all of them.
 */
export function plantFaults(
  clean: readonly Part[],
  fadersDb: readonly number[],
  usual: readonly Float64Array[],
  random: Random,
): Faulty {
  const parts = [...clean]
  const table: Planted[] = []
  const between = (from: number, to: number) => from + (to - from) * random()
  const change = (index: number, by: (channels: Float32Array[]) => void) => {
    const channels = parts[index].clip.channels.map((c) => c.slice())
    by(channels)
    parts[index] = { ...parts[index], clip: makeClip(RATE_HZ, channels) }
  }
  const filter = (index: number, bell: EqBand) =>
    change(index, (channels) => {
      for (const c of channels) shape(c, bell)
    })
  const told = (
    kind: Planted['kind'],
    tracks: readonly string[],
    range: readonly [number, number],
    strengthDb: number,
    note: string,
  ) => table.push({ kind, tracks, fromHz: range[0], toHz: range[1], strengthDb, note })
  const indexOf = (test: (part: Part) => boolean) => parts.findIndex(test)
  const order = parts.map((_, i) => ({ i, by: random() })).sort((a, b) => a.by - b.by)
  const beds = order
    .map(({ i }) => i)
    .filter((i) => ['keys', 'strings', 'guitar'].includes(parts[i].role))

  const lead = indexOf((p) => p.isLead)
  const hz = between(1300, 2600)
  const db = between(8, 11)
  // What has nothing there covers nothing: the bed that is strongest there is raised.
  const there = [{ hz, fromHz: 0.7 * hz, toHz: 1.4 * hz }]
  const cover = beds.reduce((a, b) => {
    const [one, other] = [a, b].map((i) => longTermPower(parts[i].clip, there)[0])
    return other > one ? b : a
  })
  filter(cover, band('bell', hz, { db, q: 0.8 }))
  const range = [0.55 * hz, 1.55 * hz] as const
  const atFader = (i: number) => ({ sound: parts[i].clip.channels[0], gainDb: fadersDb[i] })
  if (coveredShare(atFader(lead), atFader(cover), range) >= LEAST_COVERED) {
    told('masking', [parts[cover].name, parts[lead].name], range, db, 'a bed covers the lead')
  }

  // Both are faults of the whole, and one can hide the other: a session has one of them.
  if (random() < 0.5) {
    const low = between(260, 400)
    const piledDb = between(8, 10)
    const bell = band('bell', low, { db: piledDb, q: 1.1 })
    // As many beds as it takes until the whole is much stronger there than it was.
    const region = [{ hz: low, fromHz: 0.8 * low, toHz: 1.25 * low }]
    const powers = () =>
      clean.map((_, i) => longTermPower(parts[i].clip, region)[0] * 10 ** (fadersDb[i] / 10))
    const whole = () => powers().reduce((a, b) => a + b, 0)
    const before = whole()
    const now = powers()
    const piled: number[] = []
    for (const i of [...beds].sort((a, b) => now[b] - now[a])) {
      if (piled.length >= 3 && whole() > before * 10 ** 0.45) break
      filter(i, bell)
      piled.push(i)
    }
    const brought = parts.map((p, i) => scaledPowers(longTermPower(p.clip, THIRDS), fadersDb[i]))
    if (excessDb(sumOfPowers(brought), usual, low) >= LEAST_EXCESS_DB) {
      const names = piled.map((i) => parts[i].name)
      told('pile-up', names, [0.69 * low, 1.44 * low], piledDb, 'low mids pile up')
    }
  } else {
    const shelf = (random() < 0.5 ? -1 : 1) * between(6, 8)
    parts.forEach((_, i) => {
      filter(i, band('high-shelf', 3500, { db: shelf }))
    })
    told('balance', ['mix'], [3500, 18_000], shelf, shelf < 0 ? 'a dull mix' : 'a bright mix')
  }

  const rings = order
    .map(({ i }) => i)
    .find((i) => i !== cover && !['bass', 'drums'].includes(parts[i].role))
  const ringing = rings ?? lead
  const ring = audibleRing(parts[ringing].clip, random)
  if (ring) {
    filter(ringing, band('bell', ring.hz, { db: ring.db, q: ring.q }))
    told('resonance', [parts[ringing].name], [0.97 * ring.hz, 1.03 * ring.hz], ring.db, 'a ring')
  }

  const rumbleDb = -between(12, 18)
  change(lead, ([c]) => addInto(c, rumble(c, random, rumbleDb)))
  told('rumble', [parts[lead].name], [20, 60], rumbleDb, 'rumble under the lead')

  const hums = indexOf((p) => p.role === 'guitar' || p.name === 'Electric piano')
  if (hums >= 0) {
    const mains = random() < 0.5 ? 50 : 60
    const humDb = -between(26, 36)
    change(hums, (channels) => {
      for (const c of channels) addInto(c, hum(c, mains, humDb))
    })
    told('hum', [parts[hums].name], [0.9 * mains, 13 * mains], humDb, 'hum')
  }

  // Choirs have no sibilants.
  const speaks = order.map(({ i }) => i).find((i) => parts[i].name.toLowerCase().endsWith('voice'))
  if (speaks !== undefined) {
    const at = between(5500, 7500)
    const by = between(9, 13)
    change(speaks, (channels) => hiss(channels, at, by))
    // In a mix that was made dull they may be no louder than they were: then nothing stands out.
    if (strongestHiss(parts[speaks].clip) > LEAST_HISS * strongestHiss(clean[speaks].clip)) {
      told('harshness', [parts[speaks].name], [0.6 * at, 1.5 * at], by, 'sibilants stand out')
    }
  }

  const bass = indexOf((p) => p.role === 'bass')
  const source = parts[bass]
  const amplifier = shape(
    source.clip.channels[0].slice(),
    band('high-cut', 3500),
    band('low-cut', 60),
  )
  const turned = turnPhase(amplifier, between(110, 175))
  const delay = Math.round(between(40, 200))
  const late = new Float32Array(turned.length)
  addInto(late, turned, 1, delay)
  parts.push({ ...source, name: 'Bass amplifier', clip: makeClip(RATE_HZ, [late]) })
  told('alignment', [source.name, 'Bass amplifier'], [40, 2000], 0, 'a second microphone is late')

  const wide = indexOf((p) => p.role === 'drums' && p.clip.channels.length === 2)
  if (wide >= 0) {
    const below = between(105, 125)
    change(wide, (channels) => widenLows(channels, below))
    told('wide-low-end', [parts[wide].name], [0.4 * below, 1.3 * below], 0, 'a wide low end')
  }

  return { parts, table }
}

const scaledPowers = (powers: Float64Array, db: number) => powers.map((v) => v * 10 ** (db / 10))
const sumOfPowers = (of: readonly Float64Array[]) =>
  of[0].map((_, b) => of.reduce((sum, powers) => sum + powers[b], 0))

/** A ring that is heard in what the sound excites; null where twenty tries find none. */
function audibleRing(clip: Clip, random: Random) {
  for (let i = 0; i < 20; i++) {
    const hz = Math.exp(Math.log(250) + Math.log(4500 / 250) * random())
    const [db, q] = [10 + 5 * random(), 10 + 15 * random()]
    const ringing = shape(clip.channels[0].slice(), band('bell', hz, { db, q }))
    const [share] = risingShares(clip.channels[0], ringing, hz, [HEARD_DB])
    if (share >= LEAST_RISING) return { hz, db, q }
  }
  return null
}

/** Low noise that is so loud against the sound where it sounds, in dB of power. */
function rumble(under: Float32Array, random: Random, db: number): Float32Array {
  const noise = under.map(() => random() - 0.5)
  shape(noise, band('high-cut', 45, { slopeDbPerOct: 24 }), band('low-cut', 18))
  return scaled(noise, under, db)
}

/** Mains and its harmonics, falling by 5 dB each, at a level against the sound. */
function hum(under: Float32Array, mainsHz: number, db: number): Float32Array {
  const sound = new Float32Array(under.length)
  for (let n = 1; n <= 12; n++) {
    const amplitude = 10 ** (-(2.5 * (n - 1)) / 20) * (n % 2 === 0 ? 0.6 : 1)
    const step = (2 * Math.PI * mainsHz * n) / RATE_HZ
    for (let i = 0; i < sound.length; i++) sound[i] += amplitude * Math.sin(step * i + n)
  }
  return scaled(sound, under, db)
}

function scaled(sound: Float32Array, under: Float32Array, db: number): Float32Array {
  const power = (c: Float32Array) => c.reduce((sum, v) => sum + v * v, 0) / c.length
  const gain = Math.sqrt((10 ** (db / 10) * power(under)) / (power(sound) || 1))
  return sound.map((v) => v * gain)
}

/** Sibilants stand out: wherever there is more above 4 kHz than below, a bell raises the range around `hz`. */
function hiss(channels: Float32Array[], hz: number, db: number): void {
  const bell = band('bell', hz, { db, q: 1.2 })
  const high = shape(channels[0].slice(), band('low-cut', 4000, { slopeDbPerOct: 24 }))
  const low = shape(channels[0].slice(), band('high-cut', 4000, { slopeDbPerOct: 24 }))
  const raised = channels.map((c) => shape(c.slice(), bell))
  const glide = 1 - Math.exp(-1 / (0.004 * RATE_HZ))
  let [above, below, share] = [0, 0, 0]
  for (let i = 0; i < high.length; i++) {
    above += glide * (high[i] ** 2 - above)
    below += glide * (low[i] ** 2 - below)
    share += glide * ((above > below && above > 1e-7 ? 1 : 0) - share)
    channels.forEach((c, side) => {
      c[i] += share * (raised[side][i] - c[i])
    })
  }
}

/** Below a frequency the right side runs against the left, nearly in full. */
function widenLows(channels: Float32Array[], belowHz: number): void {
  const lows = channels.map((c) =>
    shape(c.slice(), band('high-cut', belowHz, { slopeDbPerOct: 24 })),
  )
  const turned = turnPhase(lows[0], 130)
  channels[1].forEach((_, i) => {
    channels[1][i] += turned[i] - lows[1][i]
  })
}

/** Loudness to which every track is brought before faders, as in working levels. */
export function gatedLoudness(clip: Clip): number {
  return measureLoudness(clip).integratedLufs ?? -70
}
