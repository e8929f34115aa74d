import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readWav, writeWav } from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import { measureLoudness } from '@sober-prism/core/loudness'
import { PLAYBACKS } from '@sober-prism/core/playback'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import { describe, expect, it } from 'vitest'
import { filtered } from '../../core/src/testing/filtered'
import { whiteNoise } from '../../core/src/testing/signals'
import { glidingVoice } from '../../core/src/testing/sounds'
import { prismIn } from './testing/prism-in'

const RATE = 48_000
const cwd = mkdtempSync(join(tmpdir(), 'prism-playback-'))
const prism = prismIn(cwd)
const put = (name: string, channels: Float32Array[]) =>
  writeFileSync(join(cwd, name), writeWav(makeClip(RATE, channels), '32f'))
const read = (name: string) => readWav(readFileSync(join(cwd, name)))

const noise = whiteNoise(6 * RATE, 1, 0.05)
put('noise.wav', [noise, noise])

describe('prism playback', () => {
  it('does to a recording what it says, as loud as before', async () => {
    const call = ['playback', 'noise.wav', 'laptop.wav', '--through', 'laptop', '--json']
    const { status, json } = await prism(...call)
    expect(status).toBe(0)
    const { out, through, response } = json() as {
      out: string
      through: string
      response: { hz: number; db: number }[]
    }
    expect([out, through]).toEqual(['laptop.wav', 'laptop'])
    const played = read(out)
    expect(played.frames).toBe(noise.length)
    const [before, after] = [read('noise.wav'), played].map(
      (c) => measureLoudness(c).integratedLufs,
    )
    expect(Math.abs((after ?? 0) - (before ?? 0))).toBeLessThan(0.1)
    const thirds = makeBands('third')
    const [own, heard] = [read('noise.wav'), played].map((c) => longTermLevels(c, thirds))
    for (const { hz, db } of response.filter((p) => p.hz > 150 && p.hz < 12_000)) {
      const i = thirds.findIndex((b) => Math.abs(Math.log2(b.hz / hz)) < 0.05)
      expect(Math.abs(heard[i] - own[i] - db)).toBeLessThan(0.6)
    }
  })

  it('takes a description, and the recording of an impulse', async () => {
    const own = { ...PLAYBACKS[0], name: 'tin-can', where: 'in a tin can' }
    writeFileSync(join(cwd, 'can.json'), JSON.stringify(own))
    const can = await prism('playback', 'noise.wav', 'can.wav', '--through', 'can.json', '--json')
    expect(can.json().through).toBe('tin-can')
    const impulse = new Float32Array(64)
    impulse[0] = 0.25
    put('bare.wav', [impulse])
    const bare = await prism('playback', 'noise.wav', 'same.wav', '--through', 'bare.wav')
    expect(bare.status).toBe(0)
    const { channels } = read('same.wav')
    const most = channels[0].reduce((m, v, i) => Math.max(m, Math.abs(v - noise[i])), 0)
    expect(most).toBeLessThan(1e-4)
  })

  it('says what it cannot do', async () => {
    const missing = await prism('playback', 'noise.wav', 'x.wav')
    expect(missing.status).toBe(2)
    const unknown = await prism('playback', 'noise.wav', 'x.wav', '--through', 'gramophone')
    expect(unknown.status).toBe(1)
    expect(unknown.error).toMatch(
      /^prism: gramophone: no such file, and no playback .*kitchen-radio/,
    )
    put('long.wav', [new Float32Array(11 * RATE).fill(0.1)])
    const long = await prism('playback', 'noise.wav', 'x.wav', '--through', 'long.wav')
    expect(long.error).toContain('longer than 10 s')
    writeFileSync(join(cwd, 'wrong.json'), '{"version":1}')
    const wrong = await prism('playback', 'noise.wav', 'x.wav', '--through', 'wrong.json')
    expect(wrong.error).toMatch(/^prism: wrong.json: not a playback description: /)
  })
})

describe('prism findings --through', () => {
  it('names what is lost there, with a move', async () => {
    const low = Float32Array.from({ length: 2 * RATE }, (_, i) => {
      const f = 55 + 7 * Math.floor((2 * i) / RATE)
      const partial = (n: number, db: number) =>
        10 ** (db / 20) * Math.sin((2 * Math.PI * f * n * i) / RATE)
      return 0.2 * (partial(1, 0) + partial(2, -4) + partial(3, -20) + partial(5, -28))
    })
    const pad = filtered(whiteNoise(2 * RATE, 4, 0.03), { ...newBand('bell', 900), db: 6, q: 0.7 })
    put('tuba.wav', [low])
    put('pad.wav', [pad])
    put('voice.wav', [glidingVoice(3, 2, 150, 300)])
    const { status, json } = await prism(
      'findings',
      'tuba.wav',
      'pad.wav',
      'voice.wav',
      '--through',
      'laptop',
      '--json',
    )
    expect(status).toBe(0)
    const { through, heard, findings } = json()
    expect(through).toMatchObject({ name: 'laptop', dbSpl: 66 })
    expect(heard.map((h: { track: string }) => h.track)).toEqual([
      'tuba.wav',
      'pad.wav',
      'voice.wav',
    ])
    expect(findings.length).toBe(1)
    expect(findings[0]).toMatchObject({
      kind: 'masking',
      form: 'lost-in-playback',
      tracks: ['tuba.wav'],
    })
    expect(findings[0].evidence.sentence).toMatch(
      /^tuba\.wav is \d+ % heard on a laptop, \d+ % here/,
    )
  })
})
