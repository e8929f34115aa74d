import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeClip, readWav, writeWav } from '@sober-prism/core/audio'
import { newBand } from '@sober-prism/core/filters'
import { writeChainFile } from '@sober-prism/core/session'
import { newChainBand, newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it } from 'vitest'
import { whiteNoise } from '../../core/src/testing/signals'
import { prismIn } from './testing/prism-in'

const RATE = 48_000
const cwd = mkdtempSync(join(tmpdir(), 'prism-export-'))
const prism = prismIn(cwd)
const at = (name: string) => join(cwd, name)

const bands = [
  { ...newBand('low-cut', 90), slopeDbPerOct: 24 as const },
  { ...newBand('bell', 320), db: -4.5, q: 1.3 },
  { ...newBand('high-shelf', 9000), db: 3 },
].map((b, i) => newChainBand(`b${i}`, b))
const equaliser = newTreatment('equaliser', 'e', 'shape', { phase: 'minimum', bands })
writeFileSync(at('chain.json'), writeChainFile([equaliser]))
const noise = whiteNoise(RATE, 1, 0.1)
writeFileSync(at('IN.wav'), writeWav(makeClip(RATE, [noise, whiteNoise(RATE, 2, 0.1)]), '32f'))

describe('prism export', () => {
  it('gives figures, a list and a command line', async () => {
    const csv = await prism('export', 'chain.json', '--as', 'csv')
    expect(csv.status).toBe(0)
    expect(csv.out.split('\n')[0]).toBe('hz,db,phase_deg,group_delay_ms')
    const text = await prism('export', 'chain.json', '--as', 'text')
    expect(text.out).toContain('low cut 90 Hz, 24 dB per octave')
    const sox = (await prism('export', 'chain.json', '--as', 'sox', '--json')).json()
    expect(sox).toMatchObject({ out: null, notSaid: [] })
    expect(sox.worstDeviationDb).toBeLessThan(0.001)
    const json = await prism('export', 'chain.json', '--as', 'json', '--out', 'again.json')
    expect(json.out).toBe('again.json written\n')
    expect(JSON.parse(readFileSync(at('again.json'), 'utf8'))).toEqual(
      JSON.parse(readFileSync(at('chain.json'), 'utf8')),
    )
  })

  it('writes an impulse response, and by how much it misses the chain', async () => {
    const { status, json } = await prism(
      ...['export', 'chain.json', '--as', 'ir', '--out', 'ir.wav', '--rate', '44100', '--json'],
    )
    expect(status).toBe(0)
    const { nullDb, latencyFrames, frames } = json()
    expect(nullDb).toBeLessThan(-110)
    expect(latencyFrames).toBe(0)
    const { sampleRateHz, channels } = readWav(readFileSync(at('ir.wav')))
    expect([sampleRateHz, channels.length, channels[0].length]).toEqual([44_100, 1, frames])
  })

  it('says what it cannot do', async () => {
    expect((await prism('export', 'chain.json')).status).toBe(2)
    expect((await prism('export', 'chain.json', '--as', 'ir')).error).toContain('needs --out')
    expect((await prism('export', 'chain.json', '--as', 'csv', '--node', 'Mix')).status).toBe(2)
    writeFileSync(at('wrong.json'), '{"version":1}')
    const wrong = await prism('export', 'wrong.json', '--as', 'csv')
    expect(wrong.status).toBe(1)
    expect(wrong.error).toMatch(/^prism: wrong\.json: /)
  })
})

const TOOLS = [
  ['sox', '--version'],
  ['ffmpeg', '-version'],
] as const
describe.each(TOOLS)('%s', (tool, version) => {
  const isThere = spawnSync(tool, [version]).status === 0

  it.skipIf(!isThere)('does with the command line what the chain does', async () => {
    const { text } = (await prism('export', 'chain.json', '--as', tool, '--json')).json()
    const line = text.replace('OUT.wav', `${tool}.wav`)
    const run = spawnSync('sh', ['-c', tool === 'ffmpeg' ? `${line} -y` : line], { cwd })
    expect(String(run.stderr)).not.toMatch(/error|invalid/i)
    const applied = await prism(
      'apply',
      'IN.wav',
      `own-${tool}.wav`,
      '--chain',
      'chain.json',
      '--bits',
      '32f',
    )
    expect(applied.status).toBe(0)
    const null_ = (await prism('null', `own-${tool}.wav`, `${tool}.wav`, '--json')).json()
    expect(null_.nullDb).toBeLessThan(-100)
  })
})
