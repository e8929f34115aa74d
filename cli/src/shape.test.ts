import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readAudio, seededRandom, writeWav } from '@sober-prism/core/audio'
import { analogueDb, type EqBand } from '@sober-prism/core/filters'
import { measureLoudness } from '@sober-prism/core/loudness'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { whiteNoise } from '../../core/src/testing/signals'
import { runCommand } from './run'

const RATE = 24_000
let folder: string
const random = seededRandom(4)
let level = 0
/** Syllables of noise, and the same turned darker with a hill in it. */
const words = whiteNoise(9 * RATE, 1, 0.3).map((v, i) => {
  if (i % 2400 === 0) level = random() < 0.3 ? 0.02 : 0.3 + 0.7 * random()
  return v * level
})
const change: EqBand[] = [
  { type: 'bell', hz: 800, db: -6, q: 1, slopeDbPerOct: 12, channel: 'stereo' },
  { type: 'high-shelf', hz: 4000, db: 5, q: 0.7, slopeDbPerOct: 12, channel: 'stereo' },
]

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'prism-'))
  const keep = (name: string, ...channels: Float32Array[]) =>
    writeFile(join(folder, name), writeWav(makeClip(RATE, channels), '32f'))
  await keep('words.wav', words)
  await keep('short.wav', words.subarray(0, 5 * RATE))
  await keep('silence.wav', new Float32Array(10 * RATE))
  await writeFile(
    join(folder, 'change.json'),
    JSON.stringify({
      version: 1,
      bands: change.map(({ slopeDbPerOct: _, ...band }) => band),
    }),
  )
  await prism('apply', 'words.wav', 'changed.wav', '--eq', 'change.json', '--bits', '32f')
})
afterAll(() => rm(folder, { recursive: true }))

async function prism(...args: string[]) {
  let [out, error] = ['', '']
  const around = {
    cwd: folder,
    out(text: string) {
      out += text
    },
    error(text: string) {
      error += text
    },
    progress: () => {},
  }
  const status = await runCommand(args, around)
  return { status, error, out, json: out.startsWith('{') ? JSON.parse(out) : null }
}
const lufs = async (name: string) =>
  measureLoudness(readAudio(new Uint8Array(await readFile(join(folder, name))))).integratedLufs ?? 0

type Point = { readonly hz: number; readonly wantedDb: number; readonly givenDb: number }

describe('prism match', () => {
  const truth = (hz: number) => change.reduce((sum, b) => sum + analogueDb(b, hz), 0)
  /** Root mean square of given against true over what is surely there, the constant taken out. */
  const apart = (points: readonly Point[], of: 'wantedDb' | 'givenDb') => {
    const inside = points.filter(({ hz }) => hz > 60 && hz < 10_000)
    const off = inside.map((p) => p[of] - truth(p.hz))
    const mean = off.reduce((a, v) => a + v, 0) / off.length
    return Math.sqrt(off.reduce((a, v) => a + (v - mean) ** 2, 0) / off.length)
  }

  it('finds few bands that bring one file to another, and writes them as an EQ file', async () => {
    const { status, json } = await prism(
      'match',
      'words.wav',
      'changed.wav',
      '--out',
      'eq.json',
      '--json',
    )
    expect(status).toBe(0)
    expect(json.eq.bands.length).toBeLessThanOrEqual(3)
    expect(json.rmsErrorDb).toBeLessThan(1)
    expect(apart(json.points, 'wantedDb')).toBeLessThan(0.5)
    expect(apart(json.points, 'givenDb')).toBeLessThan(1)
    expect(JSON.parse(await readFile(join(folder, 'eq.json'), 'utf8'))).toEqual(json.eq)
  })

  it.each(['minimum', 'mixed', 'linear'])('makes one long filter in %s phase', async (phase) => {
    const { json } = await prism(
      ...['match', 'words.wav', 'changed.wav', '--taps', '4096', '--phase', phase, '--json'],
      ...['--apply', `${phase}.wav`, '--out', `${phase}.json`, '--bits', '32f'],
    )
    expect(json.eq).toBeNull()
    expect(json.rmsErrorDb).toBeLessThan(0.3)
    expect(apart(json.points, 'givenDb')).toBeLessThan(0.6)
    // As loud as it was, and near to the target by its own measure.
    expect(await lufs(`${phase}.wav`)).toBeCloseTo(await lufs('words.wav'), 1)
    const { json: again } = await prism('match', `${phase}.wav`, 'changed.wav', '--json')
    expect(again.eq.bands).toEqual([])
    // What was written runs as a chain.
    const applied = await prism(
      'apply',
      'words.wav',
      `${phase}-chain.wav`,
      '--chain',
      `${phase}.json`,
    )
    expect(applied.status).toBe(0)
  })

  it('matches to a profile as to the file that it was made of', async () => {
    await prism('profile', 'changed.wav', '--out', 'target.json')
    const [to, of] = [
      await prism('match', 'words.wav', 'target.json', '--json'),
      await prism('match', 'words.wav', 'changed.wav', '--json'),
    ]
    expect(to.json.eq).toEqual(of.json.eq)
  })

  it.each([
    [['--bands', '13'], '--bands takes 1 to 12'],
    [['--taps', '1000'], '--taps takes'],
    [['--bands', '3', '--taps', '4096'], 'not both'],
    [['--smooth', '5'], '--smooth takes'],
    [['--phase', 'linear'], '--phase goes with --taps'],
    [['--from-hz', '900', '--to-hz', '800'], '--to-hz must lie above'],
  ])('refuses %j', async (more, words) => {
    const { status, error } = await prism('match', 'words.wav', 'changed.wav', ...more)
    expect(status).toBe(2)
    expect(error).toContain(words)
  })
})

describe('prism profile', () => {
  it('makes one target of several files', async () => {
    const { status, json } = await prism(
      'profile',
      'words.wav',
      'changed.wav',
      '--out',
      'both.json',
      '--json',
    )
    expect(status).toBe(0)
    expect(json.seconds).toBeCloseTo(18, 6)
    expect(json.profile.recordings).toBe(2)
    expect(Math.max(...json.profile.twelfths.spreadDb)).toBeGreaterThan(2)
  })

  it('refuses what is too short, silent or not a profile, in a sentence, and writes nothing', async () => {
    expect(await prism('profile', 'short.wav', '--out', 'no.json')).toMatchObject({
      status: 1,
      error: expect.stringMatching(
        /^prism: short\.wav: A profile needs at least 8 s .* 5\.0 s\.\n$/,
      ),
    })
    expect((await prism('profile', 'silence.wav', '--out', 'no.json')).error).toContain('silence')
    expect((await prism('match', 'words.wav', 'change.json')).error).toMatch(/cannot be read/)
    expect((await prism('profile', 'words.wav')).status).toBe(2)
    expect(await readdir(folder)).not.toContain('no.json')
  })
})

describe('prism intelligibility', () => {
  it('tells how well a voice is understood beside others, by word and by band', async () => {
    const { json: alone } = await prism('intelligibility', 'words.wav', '--json')
    const { json } = await prism('intelligibility', 'words.wav', 'changed.wav', '--json')
    expect(json.sii).toBeLessThan(alone.sii)
    expect(json.sii).toBeGreaterThan(0)
    expect(json.bands).toHaveLength(18)
    const sum = json.bands.reduce(
      (total: number, b: { importance: number; audibility: number }) =>
        total + b.importance * b.audibility,
      0,
    )
    expect(sum).toBeCloseTo(json.sii, 6)
    for (const { seconds, sii } of json.overTime) {
      expect(seconds).toBeLessThan(9)
      expect(sii).toBeLessThanOrEqual(1)
    }
    const { json: part } = await prism(
      'intelligibility',
      'words.wav',
      '--from',
      '2',
      '--to',
      '4',
      '--json',
    )
    expect(part.overTime.length).toBeLessThanOrEqual(5)
    const silent = await prism('intelligibility', 'silence.wav', 'words.wav')
    expect(silent.status).toBe(1)
    expect(silent.error).toContain('silent')
  })
})

describe('prism balance', () => {
  it('finds nothing in what stands as its target, and half of what stands out', async () => {
    await prism('profile', 'words.wav', '--out', 'words.json')
    const same = await prism('balance', 'words.wav', '--to', 'words.json', '--json')
    expect(same.json).toEqual({ regions: [], eq: { version: 1, bands: [] } })
    const { json } = await prism(
      ...['balance', 'changed.wav', '--to', 'words.json', '--apply', 'balanced.wav', '--json'],
    )
    expect(json.regions.length).toBeGreaterThan(0)
    for (const { db, toleranceDb } of json.regions) {
      expect(Math.abs(db)).toBeGreaterThan(toleranceDb)
    }
    for (const { db } of json.eq.bands) expect(Math.round(2 * db)).toBe(2 * db)
    const after = await prism('balance', 'balanced.wav', '--to', 'words.json', '--json')
    const worst = (list: readonly { db: number }[]) =>
      list.reduce((most, r) => Math.max(most, Math.abs(r.db)), 0)
    expect(worst(after.json.regions)).toBeLessThan(worst(json.regions))
  })

  it('holds against a slope where no target is given', async () => {
    const { json } = await prism('balance', 'words.wav', '--json')
    // White noise rises by 4.5 dB per octave against the slope: too little below, too much above.
    const [low, high] = [
      json.regions.find((r: { fromHz: number }) => r.fromHz < 100),
      json.regions.find((r: { toHz: number }) => r.toHz > 6000),
    ]
    expect(low.db).toBeLessThan(-4)
    expect(high.db).toBeGreaterThan(4)
  })
})

describe('prism level', () => {
  it.each([2, 6])('takes %d dB at the loudest', async (atMost) => {
    const { status, json } = await prism(
      ...['level', 'words.wav', `level-${atMost}.wav`, '--at-most', `${atMost}`, '--json'],
    )
    expect(status).toBe(0)
    expect(json.deepestDb).toBeLessThan(-0.8 * atMost)
    expect(json.deepestDb).toBeGreaterThanOrEqual(-atMost)
    expect(json.meanDb).toBeGreaterThan(json.deepestDb)
    expect(json.lufsBefore).toBeCloseTo(await lufs('words.wav'), 6)
    expect(json.lufsAfter).toBeCloseTo(await lufs(`level-${atMost}.wav`), 2)
    expect(json.lufsAfter).toBeLessThan(json.lufsBefore)
  })

  it('says when a sound is too quiet for that', async () => {
    const { status, error } = await prism('level', 'silence.wav', 'no.wav')
    expect([status, error]).toEqual([1, expect.stringContaining('too quiet')])
    expect((await prism('level', 'words.wav', 'no.wav', '--at-most', '40')).status).toBe(2)
  })
})

describe('prism chain', () => {
  /** Harmonics of a gliding fundamental from 110 to 150 Hz, in syllables, its low end too strong. */
  function voice(): Float32Array {
    let phase = 0
    return Float32Array.from({ length: 10 * RATE }, (_, i) => {
      const t = i / RATE
      phase += (2 * Math.PI * (130 + 20 * Math.sin(2 * Math.PI * 0.4 * t))) / RATE
      const loud = 0.2 + 0.8 * Math.sin(Math.PI * 0.3 * t) ** 2
      const syllable = (t * 2.5) % 1 < 0.75 ? loud : 0.001
      let sum = 2 * Math.sin(phase)
      for (let k = 2; k < 40; k++) sum += Math.sin(k * phase + k * k) / k
      return 0.12 * syllable * sum
    })
  }
  beforeAll(() => writeFile(join(folder, 'voice.wav'), writeWav(makeClip(RATE, [voice()]), '32f')))
  const samples = async (name: string) =>
    readAudio(new Uint8Array(await readFile(join(folder, name)))).channels

  it('proposes a voice’s chain, each part with its reason, and applies what it writes', async () => {
    const { status, json } = await prism(
      ...['chain', 'voice.wav', '--at-most', '3', '--out', 'chain.json'],
      ...['--apply', 'voiced.wav', '--bits', '32f', '--json'],
    )
    expect(status).toBe(0)
    expect(json.voice.lowestHz).toBeGreaterThan(100)
    expect(json.voice.lowestHz).toBeLessThan(120)
    const rollOff = json.moves.find((m: { what: string }) => m.what === 'roll-off')
    expect(rollOff).toMatchObject({ type: 'low-cut' })
    expect(rollOff.hz).toBeLessThan(json.voice.lowestHz)
    for (const { why } of json.moves) expect(why.length).toBeGreaterThan(10)
    expect(json.leveller.deepestDb).toBeGreaterThanOrEqual(-3)
    expect(json.leveller.deepestDb).toBeLessThan(-2)
    // The chain that was written does to the sound what was applied.
    const again = await prism(
      ...['apply', 'voice.wav', 'again.wav', '--chain', 'chain.json', '--bits', '32f'],
    )
    expect(again.status).toBe(0)
    expect(await samples('again.wav')).toEqual(await samples('voiced.wav'))
  })

  it('leaves out what is not wanted', async () => {
    const { json } = await prism(
      ...['chain', 'voice.wav', '--without', 'leveller,roll-off', '--json'],
    )
    expect(json.leveller).toBeNull()
    expect(json.moves.map((m: { what: string }) => m.what)).not.toContain('roll-off')
    expect((await prism('chain', 'voice.wav', '--without', 'reverb')).status).toBe(2)
    expect((await prism('chain', 'voice.wav', '--at-most', '-1')).status).toBe(2)
  })
})
