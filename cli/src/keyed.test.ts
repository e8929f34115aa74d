import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readAudio, writeWav } from '@sober-prism/core/audio'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { gaussianNoise, rms, sine } from '../../core/src/testing/signals'
import { runCommand } from './run'

const RATE = 48000
const SECONDS = 4
let folder: string
/** Words with pauses, where most of a steady bed lies over them. */
const spoken = sine(700, SECONDS, RATE, 0.04).map((v, i) => {
  const overtone = 0.02 * Math.sin((2 * Math.PI * 2100 * i) / RATE)
  return (v + overtone) * (Math.floor(i / (0.4 * RATE)) % 2)
})
const bed = gaussianNoise(SECONDS * RATE, 5, 0.08)
const later = spoken.map((_, i) => -0.6 * (spoken[i - 37] ?? 0))

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'prism-'))
  const keep = (name: string, ...channels: Float32Array[]) =>
    writeFile(join(folder, name), writeWav(makeClip(RATE, channels), '32f'))
  await keep('key.wav', spoken)
  await keep('bed.wav', bed, bed)
  await keep('later.wav', later)
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
const audio = async (name: string) =>
  readAudio(new Uint8Array(await readFile(join(folder, name)))).channels
const change = (after: Float32Array, before: Float32Array, from: number, to: number) =>
  20 *
  Math.log10(
    rms(after, Math.round(from * RATE), Math.round(to * RATE)) /
      rms(before, Math.round(from * RATE), Math.round(to * RATE)),
  )

describe('prism follow', () => {
  it('proposes bands where the key is lost, and the bed gives way while it sounds', async () => {
    const { status, json } = await prism(
      'follow',
      'bed.wav',
      'key.wav',
      'f.wav',
      '--range',
      '9',
      '--bands',
      '2',
      '--bits',
      '32f',
      '--json',
    )
    expect(status).toBe(0)
    expect(json.bands.length).toBeGreaterThan(0)
    expect(json.bands.length).toBeLessThanOrEqual(2)
    for (const band of json.bands) expect(band).toMatchObject({ rangeDb: -9 })
    expect(json.after.keyHeard).toBeGreaterThan(json.before.keyHeard + 0.03)
    expect(json.after.yieldingSone).toBeLessThan(json.before.yieldingSone)
    const [left, right] = await audio('f.wav')
    expect(left).toEqual(right)
    expect(change(left, bed, 0.55, 0.78)).toBeLessThan(change(left, bed, 0.2, 0.38) - 0.5)
  })

  it('takes its bands from a chain file, and refuses what is none', async () => {
    const band = {
      id: 'b',
      on: true,
      type: 'bell',
      hz: 700,
      q: 1,
      channel: 'stereo',
      rangeDb: -12,
      threshold: { against: 'absolute', db: -50 },
      ratio: null,
      attackMs: 10,
      holdMs: 0,
      releaseMs: 50,
      listens: { to: 'key' },
    }
    const params = { bands: [band], lookAheadMs: 0, blend: 1, keyDb: 0, outputDb: 0 }
    const chain = { version: 1, treatments: [{ kind: 'follow', stage: 'fit', params }] }
    await writeFile(join(folder, 'chain.json'), JSON.stringify(chain))
    const { json } = await prism(
      'follow',
      'bed.wav',
      'key.wav',
      'g.wav',
      '--bands',
      'chain.json',
      '--bits',
      '32f',
      '--json',
    )
    expect(json.bands).toHaveLength(1)
    // The same through apply, to the sample.
    await prism(
      'apply',
      'bed.wav',
      'h.wav',
      '--chain',
      'chain.json',
      '--key',
      'key.wav',
      '--bits',
      '32f',
    )
    expect(await audio('h.wav')).toEqual(await audio('g.wav'))
    const none = await prism('follow', 'bed.wav', 'key.wav', 'i.wav', '--bands', '99')
    expect(none.status).toBe(2)
    const missing = await prism('follow', 'bed.wav', 'nothing.wav', 'i.wav')
    expect([missing.status, missing.error]).toEqual([1, 'prism: nothing.wav: no such file\n'])
  })
})

describe('prism duck', () => {
  it.each(['even', 'heard'])('gives way by the law %s, no deeper than asked', async (law) => {
    const { status, json } = await prism(
      'duck',
      'bed.wav',
      'key.wav',
      `${law}.wav`,
      '--law',
      law,
      '--depth',
      '6',
      '--json',
    )
    expect(status).toBe(0)
    expect(json.deepestDb).toBeLessThan(-1)
    expect(json.deepestDb).toBeGreaterThan(-7.5)
    expect(json.meanDb).toBeLessThanOrEqual(0)
    expect(json.after.keyHeard).toBeGreaterThan(json.before.keyHeard)
  })

  it('refuses what it cannot do', async () => {
    for (const wrong of [
      ['--fineness', '6'],
      ['--from-hz', '5000', '--to-hz', '100'],
      ['--depth', '40'],
    ]) {
      expect((await prism('duck', 'bed.wav', 'key.wav', 'x.wav', ...wrong)).status).toBe(2)
    }
  })
})

describe('prism align', () => {
  it('undoes a delay and a polarity, and applies it', async () => {
    const { json } = await prism(
      'align',
      'key.wav',
      'later.wav',
      '--apply',
      'moved.wav',
      '--bits',
      '32f',
      '--json',
    )
    expect(json).toMatchObject({ related: true, polarity: -1 })
    expect(json.delayFrames).toBeCloseTo(-37, 0)
    const [moved] = await audio('moved.wav')
    const sum = moved.map((v, i) => v + spoken[i])
    expect(20 * Math.log10(rms(sum) / rms(spoken))).toBeGreaterThan(3.8)
  })

  it('says so when two have nothing in common', async () => {
    const { status, json } = await prism('align', 'key.wav', 'bed.wav', '--json')
    expect(status).toBe(0)
    expect(json).toEqual({
      related: false,
      delayFrames: null,
      polarity: null,
      turnDeg: null,
      gainDb: null,
    })
    expect((await prism('align', 'key.wav', 'bed.wav', '--apply', 'y.wav')).status).toBe(1)
  })
})

describe('prism split', () => {
  it.each(['lr12', 'lr24', 'lr48', 'linear', 'subtract'])('adds up again: %s', async (kind) => {
    const { status, json } = await prism(
      'split',
      'bed.wav',
      '--at',
      '200,2000',
      '--kind',
      kind,
      '--out',
      kind,
      '--bits',
      '32f',
      '--json',
    )
    expect(status).toBe(0)
    expect(json.bands.map((b: { fromHz: number; toHz: number }) => [b.fromHz, b.toHz])).toEqual([
      [0, 200],
      [200, 2000],
      [2000, 24000],
    ])
    expect(json.sumErrorDb).toBeLessThan(kind.startsWith('lr') ? 0.05 : -100)
    const parts = await Promise.all([1, 2, 3].map((n) => audio(`${kind}/band-${n}.wav`)))
    expect(parts[0][0]).toHaveLength(bed.length)
    const sum = bed.map((_, i) => parts[0][0][i] + parts[1][0][i] + parts[2][0][i])
    expect(change(sum, bed, 0.5, 3.5)).toBeCloseTo(0, 1)
  })

  it('refuses frequencies that do not rise', async () => {
    expect((await prism('split', 'bed.wav', '--at', '2000,200', '--out', 'z')).status).toBe(2)
    expect((await prism('split', 'bed.wav', '--out', 'z')).status).toBe(2)
  })
})
