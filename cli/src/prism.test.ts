import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readWav, writeWav } from '@sober-prism/core/audio'
import { Equaliser, newBand } from '@sober-prism/core/filters'
import {
  applyEdits,
  type Edit,
  emptySession,
  newTrack,
  writeSession,
} from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { whiteNoise } from '../../core/src/testing/signals'
import { glidingVoice } from '../../core/src/testing/sounds'
import { verbatimFlac } from './flac-bytes'
import { prismIn } from './testing/prism-in'

const RATE = 48000
const cwd = mkdtempSync(join(tmpdir(), 'prism-'))
const tone = (hz: number, seconds: number, amplitude: number) =>
  Float32Array.from(
    { length: seconds * RATE },
    (_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / RATE),
  )
const put = (name: string, bytes: Uint8Array) => writeFileSync(join(cwd, name), bytes)
put('tone.wav', writeWav(makeClip(RATE, [tone(997, 3, 1)]), 24))
put('low.wav', writeWav(makeClip(RATE, [tone(500, 3, 0.3)]), '32f'))
put('silence.wav', writeWav(makeClip(RATE, [new Float32Array(RATE)]), '32f'))
put('notes.txt', new TextEncoder().encode('nothing to hear'))
put('cut.wav', writeWav(makeClip(RATE, [tone(997, 1, 1)]), 16).subarray(0, 1000))
put('tone.flac', verbatimFlac(Int16Array.from(tone(997, 1, 16384))))
const other = tone(500, 3, 0.3)
put('wide.wav', writeWav(makeClip(RATE, [other, other.map((v) => -v)]), '32f'))

/** The name of a mono recording, as docs/formats.md has it. */
function contentHash(samples: Float32Array): string {
  const digest = createHash('sha256').update(new Uint8Array(samples.buffer)).digest()
  return createHash('sha256').update(digest).digest('hex')
}

const prism = prismIn(cwd)

describe('prism inspect', () => {
  it('tells on request how loud a file is heard at most, of a syllable and of a phrase', async () => {
    const { json } = await prism('inspect', 'tone.wav', 'silence.wav', '--sones', '--json')
    const [loud, silent] = json().files
    expect(loud.maxShortTermSone).toBeGreaterThan(1)
    expect(loud.maxLongTermSone).toBeLessThanOrEqual(loud.maxShortTermSone)
    expect([silent.maxShortTermSone, silent.maxLongTermSone]).toEqual([0, 0])
    const plain = (await prism('inspect', 'tone.wav', '--json')).json().files[0]
    expect(plain).not.toHaveProperty('maxShortTermSone')
    expect((await prism('inspect', 'tone.wav', '--sones')).out).toContain('long sone')
  })

  it('gives the figures of CLI.md, with null where a value is undefined', async () => {
    const { status, json } = await prism('inspect', 'tone.wav', 'silence.wav', 'wide.wav', '--json')
    expect(status).toBe(0)
    const { files } = json()
    expect(Object.keys(files[0])).toEqual([
      'file',
      'sampleRateHz',
      'channels',
      'frames',
      'seconds',
      'integratedLufs',
      'loudnessRangeLu',
      'maxMomentaryLufs',
      'maxShortTermLufs',
      'truePeakDbtp',
      'samplePeakDbfs',
      'correlation',
    ])
    // BS.1770: a full-scale 997 Hz sine in one channel reads -3.01 LKFS.
    expect(files[0].integratedLufs).toBeCloseTo(-3.01, 1)
    expect(files[0].truePeakDbtp).toBeCloseTo(0, 1)
    expect(files[1]).toMatchObject({ integratedLufs: null, truePeakDbtp: null, correlation: null })
    expect(files[2].correlation).toBeCloseTo(-1, 6)
  })

  it('reads FLAC', async () => {
    const { json } = await prism('inspect', 'tone.flac', '--json')
    expect(json().files[0]).toMatchObject({ sampleRateHz: 44100, channels: 1, frames: RATE })
    expect(json().files[0].samplePeakDbfs).toBeCloseTo(-6.02, 1)
  })

  it.each([
    ['missing.wav', 'no such file'],
    ['cut.wav', 'cut short'],
    ['notes.txt', 'not an audio file'],
    ['.', 'is a folder'],
  ])(
    'says in one line why %s cannot be read, and gives no partial output',
    async (file, reason) => {
      const { status, out, error } = await prism('inspect', 'tone.wav', file, '--json')
      expect([status, out]).toEqual([1, ''])
      expect(error).toMatch(new RegExp(`^prism: ${file.replace('.', '\\.')}: .*${reason}.*\\n$`))
    },
  )
})

describe('the bundled program', () => {
  it('measures a long file in two threads as its sources do in one', async () => {
    const noise = whiteNoise(4_100_000, 7, 0.4)
    put('long.wav', writeWav(makeClip(RATE, [noise]), 16))
    const launcher = join(import.meta.dirname, '..', '..', 'scripts', 'prism.mjs')
    const bundled = spawnSync(process.execPath, [launcher, 'inspect', 'long.wav', '--json'], {
      cwd,
      env: { ...process.env, INIT_CWD: cwd },
    })
    expect(bundled.stderr.toString()).toBe('')
    const { json } = await prism('inspect', 'long.wav', '--json')
    expect(JSON.parse(bundled.stdout.toString())).toEqual(json())
  })
})

describe('prism spectrum', () => {
  it('finds a full-scale sine at -3.01 dB in its band', async () => {
    for (const layout of ['third', 'sixth', 'twelfth', 'erb']) {
      const { json } = await prism('spectrum', 'tone.wav', '--bands', layout, '--json')
      const bands: { hz: number; db: number }[] = json().bands
      const top = bands.reduce((a, b) => (b.db > a.db ? b : a))
      expect(Math.abs(top.hz / 997 - 1)).toBeLessThan(0.13)
      const sum = bands.reduce((a, b) => a + 10 ** (b.db / 10), 0)
      expect(10 * Math.log10(sum)).toBeCloseTo(-3.01, 1)
    }
  })
})

describe('prism masking', () => {
  it('gives every track and pair, and losses that add up', async () => {
    const { json } = await prism('masking', 'tone.wav', 'low.wav', 'wide.wav', '--json')
    const { model, calibration, tracks, pairs } = json()
    expect(model).toContain('Moore, Glasberg and Baer')
    expect(calibration).toEqual({ lufs: -23, dbSpl: 73 })
    expect(tracks).toHaveLength(3)
    expect(pairs).toHaveLength(6)
    for (const track of tracks) {
      const lost = pairs
        .filter((p: { target: string }) => p.target === track.file)
        .reduce((a: number, p: { lostSone: number }) => a + p.lostSone, 0)
      expect(lost).toBeCloseTo(track.aloneSone - track.inMixSone, 6)
    }
  })

  it('is not covered by silence, and hears sides vanish in mono', async () => {
    const quiet = (await prism('masking', 'low.wav', 'silence.wav', '--json')).json()
    expect(quiet.tracks[0].audibleShare).toBeCloseTo(1, 6)
    const mono = (await prism('masking', 'low.wav', 'wide.wav', '--mono', '--json')).json()
    expect(mono.tracks[1].aloneSone).toBeLessThan(0.01)
  })
})

describe('prism findings', () => {
  const noise = whiteNoise(6 * RATE, 3, 0.2)
  const late = noise.map((_, i) => -(noise[i - 96] ?? 0))
  const low = tone(120, 6, 0.3)
  put('near.wav', writeWav(makeClip(RATE, [noise]), '32f'))
  put('far.wav', writeWav(makeClip(RATE, [late]), '32f'))
  const middle = tone(90, 6, 0.15)
  const apart = [low.map((v, i) => v + middle[i]), low.map((v, i) => middle[i] - v)]
  put('apart.wav', writeWav(makeClip(RATE, apart), '32f'))

  it('tells two microphones of one source that cancel, and how to line them up', async () => {
    const { json, status } = await prism('findings', 'near.wav', 'far.wav', '--json')
    expect(status).toBe(0)
    const found = json().findings.find((f: { kind: string }) => f.kind === 'alignment')
    expect(found.tracks).toEqual(['near.wav', 'far.wav'])
    expect(Math.abs(found.evidence.delayFrames - 96)).toBeLessThanOrEqual(1)
    expect(found.moves[0]).toMatchObject({ track: 'far.wav', polarity: 'inverted' })
    expect(found.moves[0].shiftFrames).toBe(-Math.round(found.evidence.delayFrames))
    expect(found.moves[0].chain.treatments[0]).toMatchObject({
      kind: 'align',
      params: { polarity: -1, turnDeg: 0 },
    })
    expect(found.predicted.after).toBeLessThan(found.predicted.before)
  })

  it('answers sibilants by a chain that hears them, and says what bands at rest can do', async () => {
    const hiss = whiteNoise(8 * RATE, 4, 0.5)
    const highs = new Equaliser()
    highs.prepare(RATE, 1)
    highs.set([{ id: 'low', band: newBand('low-cut', 4500) }])
    highs.process([hiss], hiss.length)
    const lisping = glidingVoice(11, 8, 120, 240, 0).map((v, i) =>
      (i / RATE) % 0.5 < 0.08 ? 0.02 * v + 1.3 * hiss[i] : v,
    )
    put('voice.wav', writeWav(makeClip(RATE, [lisping]), '32f'))
    const harsh = async (file: string) =>
      (await prism('findings', file, '--json'))
        .json()
        .findings.find((f: { kind: string }) => f.kind === 'harshness')
    const found = await harsh('voice.wav')
    const [move] = found.moves
    expect(move.eq.bands).toHaveLength(1)
    const [band] = move.chain.treatments[0].params.bands
    expect(band).toMatchObject({ rangeDb: -6, listens: { to: 'itself' } })
    expect(move.eq.bands[0]).toMatchObject({ hz: band.hz, q: band.q, db: -3 })
    put('softer.json', new TextEncoder().encode(JSON.stringify(move.chain)))
    const applied = await prism('apply', 'voice.wav', 'softer.wav', '--chain', 'softer.json')
    expect(applied.status).toBe(0)
    const [out] = readWav(new Uint8Array(readFileSync(join(cwd, 'softer.wav')))).channels
    const power = (signal: Float32Array, from: number, to: number) =>
      signal.slice(from * RATE, to * RATE).reduce((sum, v) => sum + v * v, 0)
    const change = (from: number, to: number) =>
      10 * Math.log10(power(out, from, to) / power(lisping, from, to))
    expect(change(4.02, 4.07)).toBeLessThan(-0.5)
    expect(Math.abs(change(4.2, 4.5))).toBeLessThan(0.1)
  })

  it('gives the keys of CLI.md, and EQ files that `apply` takes', async () => {
    const { json } = await prism(
      'findings',
      'apart.wav',
      'near.wav',
      '--lead',
      'near.wav',
      '--json',
    )
    const wide = json().findings.find((f: { kind: string }) => f.kind === 'wide-low-end')
    for (const key of ['kind', 'tracks', 'hz', 'fromHz', 'toHz', 'severity', 'evidence', 'moves']) {
      expect(wide).toHaveProperty(key)
    }
    // Its sides are opposite: what the sum to mono has of it is foretold, not only that the sides are gone.
    expect(wide.predicted.after).toBeGreaterThan(wide.predicted.before + 2)
    const [move] = wide.moves
    put('move.json', new TextEncoder().encode(JSON.stringify(move.eq)))
    expect((await prism('apply', 'apart.wav', 'by-eq.wav', '--eq', 'move.json')).status).toBe(0)
    put('chain.json', new TextEncoder().encode(JSON.stringify(move.chain)))
    const applied = await prism('apply', 'apart.wav', 'mended.wav', '--chain', 'chain.json')
    expect(applied.status).toBe(0)
    const [left, right] = readWav(new Uint8Array(readFileSync(join(cwd, 'mended.wav')))).channels
    const power = (sign: 1 | -1) =>
      left.slice(RATE).reduce((sum, v, i) => sum + (v + sign * right[RATE + i]) ** 2, 0)
    // What was predicted is what the rendered file has.
    expect(power(-1) / (power(1) + power(-1))).toBeLessThan(0.1)
    const inMono = 10 * Math.log10(power(1) / (power(1) + power(-1)))
    expect(Math.abs(inMono - wide.predicted.after)).toBeLessThan(0.1)
  })

  it('has a list in words, and refuses a lead that is no file of the session', async () => {
    const { out } = await prism('findings', 'near.wav', 'far.wav')
    expect(out).toMatch(/near\.wav and far\.wav cancel/)
    const wrong = await prism('findings', 'near.wav', '--lead', 'tone.wav')
    expect(wrong.status).toBe(2)
    expect(wrong.error).toContain('--lead tone.wav is none of the files')
  })
})

describe('prism render', () => {
  const session = () => {
    const made = emptySession('s', 'Piece', '2026-03-04T05:06:07.000Z', RATE)
    const hash = contentHash(other)
    const track = newTrack('t', 'Voice', 'voice', 'A', { hash, channels: 1, frames: 3 * RATE })
    made.tracks.push(track)
    const chainBand = newChainBand('m', { ...newBand('bell', 500), db: -6 })
    const params = { phase: 'linear' as const, bands: [chainBand] }
    const edits: Edit[] = [
      { kind: 'add-group', id: 'g', name: '../Choir', members: ['t'] },
      { kind: 'set-node', node: 'g', change: { letter: '../' } },
      ...[
        newTreatment('equaliser', 'e', 'shape', params),
        newTreatment('align', 'a', 'fit', { delayFrames: -12.5, polarity: -1, turnDeg: 0 }),
        newTreatment('low-middle', 'l', 'fit'),
      ].map((treatment): Edit => ({ kind: 'add-treatment', node: 'g', treatment, before: null })),
    ]
    return { made: applyEdits(made, edits), hash }
  }

  it('brings the mix to the peak or the loudness that the session asks for, and says by how much', async () => {
    const { made, hash } = session()
    const wav = new Uint8Array(readFileSync(join(cwd, 'low.wav')))
    const ways = { peak: { to: 'peak', dbtp: -3 }, loud: { to: 'loudness', lufs: -30, dbtp: -1 } }
    for (const [name, normalise] of Object.entries(ways)) {
      const change = { normalise } as Extract<Edit, { kind: 'set-session' }>['change']
      const text = writeSession(applyEdits(made, [{ kind: 'set-session', change }]))
      const files = { 'session.json': new TextEncoder().encode(text), [`audio/${hash}.wav`]: wav }
      put(`${name}.prism`, zipSync(files))
    }
    const peak = (await prism('render', 'peak.prism', 'peak.wav', '--json')).json()
    expect(peak.truePeakDbtp).toBeCloseTo(-3, 3)
    expect(peak.normalised.heldByPeak).toBe(false)
    const loud = (await prism('render', 'loud.prism', 'loud.wav', '--json')).json()
    expect(loud.integratedLufs).toBeCloseTo(-30, 2)
    // What stands in the file is what was said.
    const written = (await prism('inspect', 'loud.wav', '--json')).json()
    expect(written.files[0].integratedLufs).toBeCloseTo(-30, 2)
  })

  it('renders the mix and stems of a .prism file, and keeps existing files', async () => {
    const { made, hash } = session()
    const wav = new Uint8Array(readFileSync(join(cwd, 'low.wav')))
    const text = new TextEncoder().encode(writeSession(made))
    put('piece.prism', zipSync({ 'session.json': text, [`audio/${hash}.wav`]: wav }))
    const args = ['render', 'piece.prism', 'out.wav', '--stems', 'stems', '--json']
    const { status, json } = await prism(...args)
    expect(status).toBe(0)
    expect(Object.keys(json())).toEqual(['out', 'frames', 'integratedLufs', 'truePeakDbtp'])
    const out = readWav(new Uint8Array(readFileSync(join(cwd, 'out.wav'))))
    expect([out.channels.length, out.frames]).toEqual([2, 3 * RATE])
    let peak = 0
    for (let i = RATE; i < 2 * RATE; i++) peak = Math.max(peak, Math.abs(out.channels[0][i]))
    // 0.3, cut by 6 dB at its own frequency, and 3 dB down on each side of the middle.
    expect(20 * Math.log10(peak)).toBeCloseTo(20 * Math.log10(0.3) - 6 - 3.01, 1)
    // A group and a track; names cannot leave their folder.
    expect(readdirSync(join(cwd, 'stems')).sort()).toEqual(['A Voice.wav', '___ ___Choir.wav'])
    const again = await prism(...args)
    expect([again.status, again.error]).toEqual([
      1,
      'prism: out.wav: exists already; --force replaces it\n',
    ])
    expect((await prism(...args, '--force')).status).toBe(0)
  })

  it('gives two tracks of one letter and name a stem each', async () => {
    const { made, hash } = session()
    const wav = new Uint8Array(readFileSync(join(cwd, 'low.wav')))
    const [track] = made.tracks
    const named = (id: string, name: string) => ({
      ...track,
      id,
      letter: 'V',
      name,
      output: 'mix' as const,
    })
    made.tracks.splice(0, 9, named('t1', 'Voice'), named('t2', 'voice'), named('t3', 'Voi:ce'))
    made.tracks.push(named('t4', 'Voi/ce'))
    const text = new TextEncoder().encode(writeSession({ ...made, groups: [], leadIds: [] }))
    put('twins.prism', zipSync({ 'session.json': text, [`audio/${hash}.wav`]: wav }))
    const { status } = await prism('render', 'twins.prism', 'twins.wav', '--stems', 'twins')
    expect(status).toBe(0)
    const names = readdirSync(join(cwd, 'twins'))
    expect(names).toHaveLength(4)
    expect(new Set(names.map((n) => n.toLowerCase())).size).toBe(4)
  })

  it('is what findings are looked for in: every track through its chain and its group’s', async () => {
    const { made, hash } = session()
    const wav = new Uint8Array(readFileSync(join(cwd, 'low.wav')))
    const write = (text: string) =>
      put(
        'sung.prism',
        zipSync({ 'session.json': new TextEncoder().encode(text), [`audio/${hash}.wav`]: wav }),
      )
    write(writeSession(made))
    const { status, json } = await prism('findings', 'sung.prism', '--json')
    expect(status).toBe(0)
    const { findings } = json() as { findings: { tracks: string[] }[] }
    for (const { tracks } of findings) expect(['Voice', 'mix']).toContain(tracks[0])
    expect((await prism('findings', 'sung.prism', '--lead', 'sung.prism')).status).toBe(2)
    // A session in which nothing sounds has nothing to be looked for.
    write(writeSession(applyEdits(made, [{ kind: 'set-node', node: 'g', change: { mute: true } }])))
    expect((await prism('findings', 'sung.prism')).error).toContain(
      'no track of the session sounds',
    )
  })

  it.each([
    ['rate', makeClip(44100, [other]), 'its rate is 44100 Hz'],
    ['channel count', makeClip(RATE, [other, other]), 'it has 2 channels'],
    ['length', makeClip(RATE, [other.subarray(1)]), 'it has 143999 frames'],
    ['content', makeClip(RATE, [other.map((v) => v / 2)]), 'its samples differ'],
  ])('refuses audio of another %s than the session says', async (_, clip, reason) => {
    const { made, hash } = session()
    const text = new TextEncoder().encode(writeSession(made))
    const wav = writeWav(clip, '32f')
    put('other.prism', zipSync({ 'session.json': text, [`audio/${hash}.wav`]: wav }))
    const { status, error } = await prism('render', 'other.prism', 'other-out.wav')
    expect([status, error]).toEqual([
      1,
      `prism: other.prism: the audio of Voice is not what the session says: ${reason}\n`,
    ])
    expect(existsSync(join(cwd, 'other-out.wav'))).toBe(false)
  })

  it('refuses a session without its audio, or one that is none', async () => {
    const { made } = session()
    put('bare.prism', zipSync({ 'session.json': new TextEncoder().encode(writeSession(made)) }))
    expect((await prism('render', 'bare.prism', 'x.wav')).error).toContain('audio of Voice')
    expect((await prism('render', 'tone.wav', 'x.wav')).status).toBe(1)
    expect(existsSync(join(cwd, 'x.wav'))).toBe(false)
  })
})

put(
  'eq.json',
  new TextEncoder().encode(
    JSON.stringify({
      version: 1,
      bands: [
        { type: 'bell', hz: 1000, db: -6, q: 4 },
        { type: 'low-cut', hz: 60, slopeDbPerOct: 24 },
        { type: 'high-shelf', hz: 8000, db: 3, channel: 'side' },
      ],
    }),
  ),
)

describe('prism response', () => {
  it('gives magnitude, phase and delay, in the order asked, alike in all phase modes', async () => {
    for (const phase of ['minimum', 'mixed', 'linear']) {
      const args = [
        'response',
        '--eq',
        'eq.json',
        '--phase',
        phase,
        '--at',
        '1000,60,12000',
        '--json',
      ]
      const { rateHz, latencyFrames, points } = (await prism(...args)).json()
      expect(rateHz).toBe(48000)
      expect(latencyFrames > 0).toBe(phase !== 'minimum')
      expect(points.map((p: { hz: number }) => p.hz)).toEqual([1000, 60, 12000])
      expect(points[0].db).toBeCloseTo(-6, 0)
      expect(points[1].db).toBeCloseTo(-3, 0)
      expect(Object.keys(points[0])).toEqual(['hz', 'db', 'phaseDeg', 'groupDelayMs'])
      if (phase === 'linear') expect(Math.abs(points[1].phaseDeg)).toBeLessThan(0.1)
    }
    const short = (
      await prism('response', '--eq', 'eq.json', '--phase', 'linear', '--taps', '2048', '--json')
    ).json()
    expect(short.latencyFrames).toBe(1023 + 128)
    expect(short.preEchoDb).toBeLessThan(0)
    expect((await prism('response', '--eq', 'eq.json', '--taps', '5')).status).toBe(2)
    const left = (
      await prism('response', '--eq', 'eq.json', '--channel', 'left', '--at', '16000', '--json')
    ).json()
    expect(left.points[0].db).toBeCloseTo(0, 1)
    expect((await prism('response', '--eq', 'eq.json')).out).toContain('phase')
  })

  it('refuses a bad EQ file by its path, and a bad call', async () => {
    put(
      'bad.json',
      new TextEncoder().encode('{"version":1,"bands":[{"type":"bell","hz":1,"db":0,"q":1}]}'),
    )
    const { status, error } = await prism('response', '--eq', 'bad.json')
    expect(status).toBe(1)
    expect(error).toMatch(/^prism: bad\.json: .*bands\[0\]\.hz/)
    expect((await prism('response')).status).toBe(2)
    expect((await prism('response', '--eq', 'eq.json', '--at', '0')).status).toBe(2)
  })
})

describe('prism apply --chain', () => {
  const chain = (...treatments: object[]) =>
    new TextEncoder().encode(JSON.stringify({ version: 1, treatments }))

  it('runs treatments of all kinds over a recording, aligned with the input and as long', async () => {
    put(
      'all.json',
      chain(
        { kind: 'align', stage: 'clean', on: true, params: { delayFrames: 40, polarity: -1 } },
        { kind: 'low-middle', stage: 'fit', on: true, params: { hz: 150, slopeDbPerOct: 24 } },
        { kind: 'equaliser', stage: 'shape', on: true, params: { phase: 'linear', bands: [] } },
        { kind: 'align', stage: 'shape', on: false, params: { delayFrames: 900 } },
      ),
    )
    const args = [
      'apply',
      'tone.wav',
      'chained.wav',
      '--chain',
      'all.json',
      '--bits',
      '32f',
      '--json',
    ]
    const { json, status } = await prism(...args)
    expect(status).toBe(0)
    expect(json()).toMatchObject({ out: 'chained.wav', frames: 3 * RATE })
    const [out] = readWav(new Uint8Array(readFileSync(join(cwd, 'chained.wav')))).channels
    const [tone] = readWav(new Uint8Array(readFileSync(join(cwd, 'tone.wav')))).channels
    for (let i = RATE; i < 2 * RATE; i += 11) expect(out[i]).toBeCloseTo(-tone[i - 40], 3)
  })

  it('needs one of --eq and --chain, refuses a bad chain by its path and a key without a chain', async () => {
    expect((await prism('apply', 'tone.wav', 'x.wav')).status).toBe(2)
    const both = ['--eq', 'eq.json', '--chain', 'all.json']
    expect((await prism('apply', 'tone.wav', 'x.wav', ...both)).status).toBe(2)
    put('odd.json', chain({ kind: 'low-middle', stage: 'fit', on: true, params: { hz: 5 } }))
    const bad = await prism('apply', 'tone.wav', 'x.wav', '--chain', 'odd.json')
    expect([bad.status, bad.out]).toEqual([1, ''])
    expect(bad.error).toMatch(/^prism: odd\.json: .*treatments\[0\]\.params\.hz/)
    const keyed = await prism('apply', 'tone.wav', 'x.wav', '--eq', 'eq.json', '--key', 'low.wav')
    expect(keyed.status).toBe(2)
    expect(existsSync(join(cwd, 'x.wav'))).toBe(false)
  })
})

describe('prism apply', () => {
  it('treats a recording in its place and length, in every phase mode', async () => {
    const click = new Float32Array(RATE)
    click[20000] = 0.5
    put('click.wav', writeWav(makeClip(RATE, [click, click]), '32f'))
    for (const phase of ['minimum', 'mixed', 'linear']) {
      const args = ['apply', 'click.wav', 'done.wav', '--eq', 'eq.json', '--phase', phase]
      const { json } = await prism(...args, '--bits', '32f', '--force', '--json')
      expect(json()).toMatchObject({ out: 'done.wav', frames: RATE })
      const { channels } = readWav(new Uint8Array(readFileSync(join(cwd, 'done.wav'))))
      const peak = channels[0].reduce((b, v, i, all) => (Math.abs(v) > Math.abs(all[b]) ? i : b), 0)
      expect(peak).toBe(20000)
      // The shelf acts on the sides only, and there are none.
      expect(channels[0]).toEqual(channels[1])
    }
  })

  it('writes 16, 24 and 32f, and keeps an existing file', async () => {
    for (const [bits, size] of [
      ['16', 2],
      ['24', 3],
      ['32f', 4],
    ] as const) {
      await prism('apply', 'low.wav', `out${bits}.wav`, '--eq', 'eq.json', '--bits', bits)
      expect(readFileSync(join(cwd, `out${bits}.wav`)).length).toBe(44 + 3 * RATE * size)
    }
    const { status, error } = await prism('apply', 'low.wav', 'out16.wav', '--eq', 'eq.json')
    expect([status, error]).toEqual([1, 'prism: out16.wav: exists already; --force replaces it\n'])
  })
})

describe('a wrong call', () => {
  it.each([
    [['inspect']],
    [['spectrum', 'a.wav', 'b.wav']],
    [['masking', 'a.wav']],
    [['spectrum', 'tone.wav', '--bands', 'wide']],
    [['spectrum', 'tone.wav', '--from', 'soon']],
    [['inspect', 'tone.wav', '--loud']],
    [[]],
    [['sing']],
    [['constructor']],
    [['__proto__']],
  ])('%j ends with status 2 and the usage', async (args) => {
    const { status, out, error } = await prism(...args)
    expect([status, out]).toEqual([2, ''])
    expect(error).toContain('usage: prism')
  })
})
