import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readWav, seededRandom, writeWav } from '@sober-prism/core/audio'
import { drawnDb, firMagnitudeDb } from '@sober-prism/core/filters'
import { longTermLevels, makeBands } from '@sober-prism/core/spectrum'
import { decode } from 'fast-png'
import { describe, expect, it } from 'vitest'
import { prismIn } from './testing/prism-in'

const RATE = 48000
const cwd = mkdtempSync(join(tmpdir(), 'prism-clean-'))

const prism = prismIn(cwd)
const text = (name: string, lines: string) => writeFileSync(join(cwd, name), lines)
const wav = (name: string, ...channels: Float32Array[]) =>
  writeFileSync(join(cwd, name), writeWav(makeClip(RATE, channels), '32f'))
const read = (name: string) => readWav(new Uint8Array(readFileSync(join(cwd, name))))

/** Syllables of a falling tone with harmonics, and pauses between them. */
function voice(seconds: number): Float32Array {
  const out = new Float32Array(seconds * RATE)
  const random = seededRandom(4)
  for (let start = 0.1; start < seconds - 0.6; start += 0.7) {
    const base = 180 + 120 * random()
    let phase = 0
    for (let i = 0; i < 0.45 * RATE; i++) {
      const t = i / RATE
      phase += (2 * Math.PI * base * (1 - 0.2 * t)) / RATE
      let v = 0
      for (let k = 1; k < 20; k++) v += Math.sin(k * phase) / k
      out[Math.floor(start * RATE) + i] += 0.1 * v * Math.min(1, t / 0.03, (0.45 - t) / 0.1)
    }
  }
  return out
}

function hum(mainsHz: number, seconds: number): Float32Array {
  return Float32Array.from({ length: seconds * RATE }, (_, i) => {
    let v = 0
    for (const k of [1, 2, 3, 5, 7]) v += Math.sin((2 * Math.PI * mainsHz * k * i) / RATE + k) / k
    return 0.004 * v
  })
}

describe('prism clean', () => {
  it.each([50.03, 59.96])(
    'finds hum of %d Hz, and needles take it from under a voice',
    async (mainsHz) => {
      const source = voice(12)
      const added = hum(mainsHz, 12)
      wav(
        'humming.wav',
        source.map((v, i) => v + added[i]),
      )
      const { json } = await prism(
        'clean',
        'humming.wav',
        '--apply',
        'cleaned.wav',
        '--force',
        '--json',
      )
      const found = json().candidates.find((c: { kind: string }) => c.kind === 'hum')
      expect(Math.abs(found.hz - mainsHz)).toBeLessThan(0.05)
      expect(found.applied).toBe(true)
      const bands = makeBands('third').filter((b) => b.hz > 30 && b.hz < 16_000)
      const levels = (samples: Float32Array) =>
        longTermLevels(makeClip(RATE, [samples.subarray(RATE)]), bands)
      const [before, after] = [source, read('cleaned.wav').channels[0]].map(levels)
      bands.forEach(({ hz }, i) => {
        // Where the voice has anything.
        if (before[i] > -70) expect([hz, Math.abs(after[i] - before[i]) < 1]).toEqual([hz, true])
      })
      // Next to nothing of it is left, the first moment included.
      const low = longTermLevels(makeClip(RATE, [read('cleaned.wav').channels[0]]), [
        { hz: mainsHz, fromHz: mainsHz - 3, toHz: mainsHz + 3 },
      ])
      const was = longTermLevels(makeClip(RATE, [added]), [
        { hz: mainsHz, fromHz: mainsHz - 3, toHz: mainsHz + 3 },
      ])
      expect(low[0]).toBeLessThan(was[0] - 20)
    },
  )

  it('finds nothing in the voice alone', async () => {
    wav('voice.wav', voice(12))
    const { json } = await prism('clean', 'voice.wav', '--json')
    expect(json().candidates.map((c: { kind: string }) => c.kind)).not.toContain('hum')
  })
})

describe('prism curve', () => {
  text('points.csv', 'hz,db\n20,-24\n200,0\n2000,0\n8000,12\n20000,12\n')
  const points = [
    [20, -24],
    [200, 0],
    [2000, 0],
    [8000, 12],
    [20000, 12],
  ].map(([hz, db]) => ({ hz, db }))

  it.each([
    [4096, 'hann', 'linear'],
    [2047, 'kaiser:80', 'minimum'],
    [16384, 'flat-top', 'linear'],
  ])('%d taps, %s, %s: the deviation is as told', async (taps, window, phase) => {
    const out = `${taps}.wav`
    const { json } = await prism(
      ...['curve', 'points.csv', '--taps', `${taps}`, '--window', window, '--phase', phase],
      ...['--out', out, '--json'],
    )
    const told = json()
    const { channels, frames } = read(out)
    expect([told.taps, frames]).toEqual([taps, taps])
    expect(told.latencyFrames).toBe(phase === 'minimum' ? 0 : Math.floor((taps - 1) / 2))
    const wanted = drawnDb({ points, joining: 'straight', axis: 'log' })
    const size = 2 ** 18
    const db = firMagnitudeDb(channels[0], size)
    let worst = 0
    for (let k = 0; k < size / 2; k++) {
      const hz = (k * RATE) / size
      if (hz >= 20 && hz <= 20_000) worst = Math.max(worst, Math.abs(db[k] - wanted(hz)))
    }
    expect(Math.abs(worst - told.worstDeviationDb)).toBeLessThan(0.05)
  })

  it('chooses the length that holds a curve', async () => {
    const { json } = await prism(
      ...[
        'curve',
        'points.csv',
        '--taps',
        'auto',
        '--within',
        '0.5',
        '--out',
        'auto.wav',
        '--json',
      ],
    )
    expect(json().worstDeviationDb).toBeLessThanOrEqual(0.5)
    expect(json().taps).toBeLessThan(65_536)
  })

  it.each([
    ['hz;db\n20,0\n', 'line 1'],
    ['hz,db\n', 'line 2'],
    ['hz,db\n20,0\n10,0\n', 'line 3'],
    ['hz,db\n20,NaN\n', 'line 2'],
    ['hz,db\n20,25\n', 'line 2'],
    ['hz,db\n20,0,1\n', 'line 2'],
  ])('refuses %j by its line', async (csv, place) => {
    text('bad.csv', csv)
    const { status, error } = await prism('curve', 'bad.csv', '--taps', '512', '--out', 'no.wav')
    expect(status).toBe(1)
    expect(error).toContain(place)
  })
})

describe('prism spectrogram', () => {
  const seconds = 1.5
  const sine = Float32Array.from(
    { length: seconds * RATE },
    (_, i) => (i > RATE ? 1 : 0.1) * Math.sin((2 * Math.PI * 3000 * i) / RATE),
  )
  wav('sine.wav', sine, sine)

  it('writes a sine at its level, in time', async () => {
    const { json } = await prism(
      ...['spectrogram', 'sine.wav', 'sine.csv', '--size', '1024', '--hop', '480', '--json'],
    )
    const { frames, bins } = json()
    const [header, ...rows] = readFileSync(join(cwd, 'sine.csv'), 'utf8').trim().split('\n')
    const hz = header.split(',').slice(1).map(Number)
    expect([rows.length, hz.length]).toEqual([frames, bins])
    const at = hz.indexOf(3000)
    const level = (time: number) => {
      const row = rows.find((r) => Math.abs(Number(r.split(',')[0]) - time) < 1e-6) ?? ''
      return Number(row.split(',')[1 + at])
    }
    expect(level(0.5)).toBeCloseTo(-23.01, 1)
    expect(level(1.2)).toBeCloseTo(-3.01, 1)
  })

  it('draws the tone as ink in one row', async () => {
    await prism('spectrogram', 'sine.wav', 'sine.png', '--size', '1024', '--hop', '480')
    const { width, height, data } = decode(readFileSync(join(cwd, 'sine.png')))
    const x = Math.floor(0.8 * width)
    const column = Array.from({ length: height }, (_, y) => data[y * width + x])
    const darkest = column.indexOf(Math.min(...column))
    const hz = 20 * 1000 ** (1 - (darkest + 0.5) / height)
    expect(Math.abs(hz / 3000 - 1)).toBeLessThan(0.03)
    expect(column[height - 1]).toBe(255)
  })

  it('refuses other names and sizes', async () => {
    expect((await prism('spectrogram', 'sine.wav', 'sine.txt')).status).toBe(2)
    expect((await prism('spectrogram', 'sine.wav', 'a.csv', '--size', '1000')).status).toBe(2)
  })
})
