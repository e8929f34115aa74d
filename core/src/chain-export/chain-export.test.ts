import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { type EqBand, newBand } from '../filters'
import { treatClip } from '../mix'
import type { Chain } from '../session'
import { convolve } from '../spectrum'
import { whiteNoise } from '../testing/signals'
import { newChainBand, newTreatment, respondChain, type Treatment } from '../treatments'
import { chainCommand, chainCsv, chainImpulse, chainList, sectionsInLine } from '.'

const RATE = 48_000
const bell = (hz: number, db: number, q: number): EqBand => ({ ...newBand('bell', hz), db, q })
let count = 0
function equaliser(phase: 'minimum' | 'linear', ...bands: EqBand[]): Treatment {
  const chainBands = bands.map((b) => newChainBand(`b${++count}`, b))
  return newTreatment('equaliser', `e${++count}`, 'shape', { phase, bands: chainBands })
}
const chainOf = (...treatments: Treatment[]): Chain => ({
  treatments,
  output: { gainDb: 0, polarity: 'normal' },
})
const VOICE = [
  { ...newBand('low-cut', 90), slopeDbPerOct: 24 as const },
  bell(320, -4.5, 1.3),
  bell(2760, -9, 15),
  { ...newBand('high-shelf', 9000), db: 3 },
]

describe('a chain as a command line', () => {
  it.each(['ffmpeg', 'sox'] as const)('%s says all bands, to thousandths of a decibel', (tool) => {
    const chain = {
      ...chainOf(equaliser('minimum', ...VOICE), equaliser('minimum', bell(60, 6, 0.8))),
      output: { gainDb: -2.5, polarity: 'inverted' as const },
    }
    const { text, worstDeviationDb, notSaid } = chainCommand(chain, tool, RATE)
    expect(text).toMatch(tool === 'sox' ? /^sox IN\.wav/ : /^ffmpeg -i IN\.wav/)
    expect(notSaid).toEqual([])
    expect(worstDeviationDb).toBeLessThan(0.001)
    // At least one section for each order of two, and the last one is the gain, turned.
    const sections = sectionsInLine(text, tool)
    expect(sections.length).toBeGreaterThanOrEqual(7)
    expect(sections.at(-1)?.b0).toBeCloseTo(-(10 ** (-2.5 / 20)), 9)
  })

  it('says what it leaves out, and of linear phase how near its magnitude is', () => {
    const sided = { ...bell(400, 3, 1), channel: 'side' as const }
    const left = { ...bell(500, 3, 1), channel: 'left' as const }
    const chain = chainOf(
      newTreatment('leveller', 'l', 'shape'),
      equaliser('linear', bell(1000, -6, 1), sided, left),
    )
    const sox = chainCommand(chain, 'sox', RATE)
    expect(sox.notSaid.length).toBe(3)
    expect(sox.notSaid.join(' ')).toMatch(/Leveller.*linear phase.*2 bands of an equaliser/)
    expect(sox.worstDeviationDb).toBeGreaterThan(0)
    expect(sox.worstDeviationDb).toBeLessThan(0.05)
    const ffmpeg = chainCommand(chain, 'ffmpeg', RATE)
    expect(ffmpeg.text).toContain('channels=FL')
    expect(ffmpeg.notSaid.join(' ')).toContain('one band of an equaliser that is not for both')
  })

  it('gives a tool that clips between effects the room that boosts need', () => {
    const chain = chainOf(equaliser('minimum', bell(1000, 9, 1), bell(1000, -9, 1)))
    const { text } = chainCommand(chain, 'sox', RATE)
    expect(Number(/ gain -(\d+) .* gain \1$/.exec(text)?.[1])).toBeGreaterThanOrEqual(12)
    expect(
      chainCommand(chainOf(equaliser('minimum', bell(1000, -3, 1))), 'sox', RATE).text,
    ).not.toMatch(/gain/)
  })
})

describe('a chain as figures', () => {
  it('has magnitude, phase and delay, and the sides where they differ', () => {
    const treatments = [equaliser('minimum', ...VOICE)]
    const chain = {
      ...chainOf(...treatments),
      output: { gainDb: 1, polarity: 'inverted' as const },
    }
    const [header, ...rows] = chainCsv(chain, RATE).text.trim().split('\n')
    expect(header).toBe('hz,db,phase_deg,group_delay_ms')
    expect(rows.length).toBe(481)
    const read = rows.map((r) => r.split(',').map(Number))
    const db = respondChain(treatments, RATE, 'mid').db(read.map((r) => r[0]))
    for (const [i, [, level]] of read.entries()) expect(level).toBeCloseTo(db[i] + 1, 2)
    // Above all bands nothing turns but the polarity.
    expect(Math.abs(read[read.length - 1][2])).toBeGreaterThan(150)
    const sided = chainOf(equaliser('minimum', { ...bell(400, 3, 1), channel: 'side' }))
    expect(chainCsv(sided, RATE).text.split('\n')[0]).toContain('sides_db')
  })

  it('is a list to type in elsewhere', () => {
    const { text, notSaid } = chainList(
      chainOf(equaliser('minimum', ...VOICE), newTreatment('leveller', 'l', 'shape')),
    )
    expect(text).toContain('  1  low cut 90 Hz, 24 dB per octave (order 4)')
    expect(text).toContain('  3  bell 2.76 kHz -9.0 dB, Q 15.0')
    expect(text).toContain('  4  high shelf 9 kHz +3.0 dB, Q 0.71')
    expect(notSaid).toEqual(['Leveller: in words only'])
    expect(chainList(chainOf()).text).toBe('Nothing is treated.\n')
  })
})

describe('a chain as an impulse response', () => {
  it.each(['minimum', 'linear'] as const)('of %s phase does what the chain does', async (phase) => {
    const treatments = [equaliser(phase, bell(400, -5, 1), bell(3000, 4, 0.8))]
    const chain = { ...chainOf(...treatments), output: { gainDb: -3, polarity: 'normal' as const } }
    const { clip, latencyFrames, nullDb, notSaid } = await chainImpulse(chain, RATE)
    expect(notSaid).toEqual([])
    expect(nullDb).toBeLessThan(-110)
    if (phase === 'minimum') expect(latencyFrames).toBe(0)
    else expect(latencyFrames).toBeGreaterThan(200)
    const noise = whiteNoise(RATE / 4, 3, 0.2)
    const [wanted] = (await treatClip(makeClip(RATE, [noise, noise.slice()]), treatments)).channels
    const given = convolve(noise, clip.channels[0])
    const gain = 10 ** (-3 / 20)
    let most = 0
    // Not at the ends, where one of both hears silence.
    for (let i = 4000; i < noise.length - 6000; i++) {
      most = Math.max(most, Math.abs(gain * wanted[i] - given[i + latencyFrames]))
    }
    expect(most).toBeLessThan(1e-5)
  })

  it('leaves out what moves with the sound, and says so', async () => {
    const { notSaid } = await chainImpulse(
      chainOf(newTreatment('leveller', 'l', 'shape'), equaliser('minimum', bell(400, -5, 1))),
      RATE,
    )
    expect(notSaid.length).toBe(1)
    expect(notSaid[0]).toMatch(/^Leveller .*moves with the sound$/)
  })
})
