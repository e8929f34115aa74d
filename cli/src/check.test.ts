import { createHash } from 'node:crypto'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readWav, writeWav } from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import {
  applyEdits,
  type Edit,
  emptySession,
  newTrack,
  writeSession,
} from '@sober-prism/core/session'
import { newChainBand } from '@sober-prism/core/treatments'
import { zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { whiteNoise } from '../../core/src/testing/signals'
import { prismIn } from './testing/prism-in'

const RATE = 48_000
const cwd = mkdtempSync(join(tmpdir(), 'prism-check-'))
const put = (name: string, bytes: Uint8Array) => writeFileSync(join(cwd, name), bytes)
const prism = prismIn(cwd)

const noise = whiteNoise(2 * RATE, 4, 0.2)
noise.fill(0, 0, 2000)
noise.fill(0, 2 * RATE - 2000)
const wav = writeWav(makeClip(RATE, [noise]), '32f')
put('noise.wav', wav)
const late = new Float32Array(2 * RATE)
for (let i = 37; i < late.length; i++) late[i] = 0.5 * noise[i - 37]
put('late.wav', writeWav(makeClip(RATE, [late]), '32f'))

describe('prism null', () => {
  it('leaves nothing of a later, softer copy once it is lined up and raised', async () => {
    const { status, json } = await prism(
      'null',
      'noise.wav',
      'late.wav',
      '--align',
      '--gain',
      '--json',
    )
    expect(status).toBe(0)
    const { nullDb, delayFrames, gainDb, bands, verdict } = json()
    expect(delayFrames).toBeCloseTo(-37, 3)
    expect(gainDb).toBeCloseTo(6.02, 2)
    expect(nullDb).toBeLessThan(-110)
    expect(bands.length).toBeGreaterThan(20)
    expect(verdict).toMatch(/^The same to -\d{3} dB\.$/)
  })

  it('takes them as they are otherwise, and writes what is left', async () => {
    const args = ['null', 'noise.wav', 'late.wav', '--residue', 'left.wav', '--json']
    const { json } = await prism(...args)
    expect(json()).toMatchObject({ delayFrames: 0, gainDb: 0, out: 'left.wav' })
    expect(json().nullDb).toBeCloseTo(10 * Math.log10(1.25), 1)
    const left = readWav(new Uint8Array(readFileSync(join(cwd, 'left.wav'))))
    expect(left.channels[0][5000]).toBeCloseTo(noise[5000] - late[5000], 6)
    expect((await prism('null', 'noise.wav')).status).toBe(2)
    expect((await prism(...args)).status).toBe(1)
  })
})

describe('prism compare', () => {
  /** The name of a recording in a session, as docs/formats.md has it: of its samples. */
  const digest = createHash('sha256').update(new Uint8Array(noise.buffer)).digest()
  const hash = createHash('sha256').update(digest).digest('hex')
  const bell = (id: string, db: number): Edit => ({
    kind: 'add-band',
    node: 'a',
    stage: 'shape',
    treatment: null,
    newTreatment: `e${id}`,
    chainBand: newChainBand(id, { ...newBand('high-shelf', 6000), db }),
  })
  const keep = (id: string): Edit => ({
    kind: 'keep-variation',
    id,
    name: id,
    keptAt: '2026-05-06T07:08:09.000Z',
  })
  const write = (name: string, more: Edit[] = []) => {
    const audio = { hash, channels: 1, frames: noise.length }
    const empty = emptySession('s', 'S', '2026-05-06T07:08:09.000Z', RATE)
    const tracks = [
      newTrack('a', 'Voice', 'voice', 'A', audio),
      newTrack('b', 'Guitar', 'guitar', 'B', audio),
    ]
    const made = applyEdits({ ...empty, tracks }, [
      { kind: 'set-lead', track: 'a', lead: true },
      keep('plain'),
      keep('bright'),
      bell('x', 4),
      { kind: 'set-node', node: 'b', change: { faderDb: -12 } },
      ...more,
    ])
    const text = new TextEncoder().encode(writeSession(made))
    put(name, zipSync({ 'session.json': text, [`audio/${hash}.wav`]: wav }))
  }
  write('piece.prism')

  it('tells two variations of a session apart: heard, tone at equal loudness, what differs', async () => {
    const { status, error, json } = await prism(
      'compare',
      'piece.prism#1',
      'piece.prism#2',
      '--json',
    )
    expect([status, error]).toEqual([0, ''])
    const { loudnessMatchedDb, leads, bands, differs } = json()
    expect(Math.abs(loudnessMatchedDb)).toBeGreaterThan(1)
    expect(leads.map((l: { name: string }) => l.name)).toEqual(['Voice'])
    expect(leads[0].heardB).toBeGreaterThan(leads[0].heardA + 0.2)
    const at = (hz: number) => bands.find((b: { hz: number }) => b.hz > hz).db
    expect(at(15_000) - at(200)).toBeGreaterThan(2)
    expect(differs).toEqual([
      {
        node: 'Voice',
        what: 'band',
        a: null,
        b: expect.stringMatching(/^high shelf 6 kHz \+4\.0 dB/),
      },
      { node: 'Guitar', what: 'fader', a: 'fader 0.0 dB', b: 'fader -12.0 dB' },
    ])
  })

  it('compares one node, takes the session as it came, and names variations that are not there', async () => {
    const { json } = await prism(
      'compare',
      'piece.prism#0',
      'piece.prism',
      '--node',
      'Guitar',
      '--json',
    )
    expect(json().loudnessMatchedDb).toBeCloseTo(0, 3)
    const missing = await prism('compare', 'piece.prism#1', 'piece.prism#7')
    expect(missing.status).toBe(1)
    expect(missing.error).toMatch(/no variation 7 \(it has 1, 2\)/)
    const nobody = await prism('compare', 'piece.prism', 'piece.prism', '--node', 'Nobody')
    expect(nobody.error).toMatch(/no track or group "Nobody"/)
  })

  it('renders a variation by its number', async () => {
    expect((await prism('render', 'piece.prism#1', 'one.wav', '--json')).status).toBe(0)
    expect((await prism('render', 'piece.prism', 'now.wav', '--json')).status).toBe(0)
    const { nullDb } = (await prism('null', 'one.wav', 'now.wav', '--json')).json()
    expect(nullDb).toBeGreaterThan(-20)
  })

  it('looks a second time at what was done, and at a variation in which nothing was', async () => {
    const { json } = await prism('look', 'piece.prism', '--json')
    // A shelf of 4 dB from 6 kHz on, on a voice.
    expect(json().moves).toMatchObject([{ node: 'Voice', kind: 'sibilant-boost', band: 'x' }])
    expect((await prism('look', 'piece.prism#1')).out).toBe('Nothing asks for a second look.\n')
    write('loud.prism', [bell('y', 8)])
    const { moves } = (await prism('look', 'loud.prism', '--json')).json()
    expect(moves).toMatchObject([
      { node: 'Voice', kind: 'large-boost', band: 'y' },
      { node: 'Voice', kind: 'sibilant-boost', band: 'x' },
    ])
    expect((await prism('look', 'loud.prism')).out).toMatch(/Halve it to \+4\.0 dB/)
  })
})
