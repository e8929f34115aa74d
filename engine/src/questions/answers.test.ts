import { makeClip, seededRandom } from '@sober-prism/core/audio'
import { mixParts, readSource } from '@sober-prism/core/findings'
import { planMoments } from '@sober-prism/core/hearing'
import {
  bedPlan,
  chainPlan,
  designLater,
  type MixBed,
  type MixPlan,
  mixSound,
  type NodePlan,
  recordingsOfChange,
  renderPlan,
  type Sound,
  soundOf,
  type Tap,
  trackAlone,
} from '@sober-prism/core/mix'
import { applyEdits, chainWith, type Edit, trimmedChain } from '@sober-prism/core/session'
import { MIX, newTreatment } from '@sober-prism/core/treatments'
import { describe, expect, it, vi } from 'vitest'
import { addEqualiser, hashOf, sessionOf } from '../../../core/src/testing/sessions'
import { MixBeds } from '../analysis/mix-beds'
import type { RecordingAccess } from '../storage/recording-access'
import type { PicturePart } from './question'
import { answer } from './registry'

const RATE = 48000
const QUIET: Edit[] = [{ kind: 'set-node', node: 'd', change: { mute: true } }]
const random = seededRandom(8)
const channel = Float32Array.from({ length: RATE }, () => 0.4 * (random() - 0.5))
const stretch = { fromFrame: 0, toFrame: RATE }
const recording = (memory: readonly Float32Array[]): RecordingAccess => ({
  hash: 'a'.repeat(64),
  blocks: '',
  channels: memory.length,
  frames: RATE,
  peaks: new Float32Array(0),
  memory,
})
const moments = planMoments(RATE, RATE, [])
const input = (
  audio: readonly Float32Array[],
  chain = chainWith([]),
  pan: number | null = null,
) => {
  const access = recording(audio)
  const sound: Sound = {
    of: 'chain',
    sampleRateHz: RATE,
    channels: (pan === null ? audio.length : 2) as 1 | 2,
    source: access.hash,
    offsetFrames: 0,
    chain: chainPlan(chain, '', designLater),
    pan,
  }
  return { sound, recordings: new Map([[access.hash, access]]), stretch }
}
const track = (audio: readonly Float32Array[], pan: number) =>
  answer('track', { ...input(audio, chainWith([]), pan || null), moments, bed: null }, () => {})
const near = (a: ArrayLike<number>, b: ArrayLike<number>, within: number) => {
  for (let i = 0; i < a.length; i++) expect(Math.abs(a[i] - b[i])).toBeLessThan(within)
}

describe('measuring a track', () => {
  it('takes a mono track in the middle as it takes both of its sides', async () => {
    const short = await track([channel], 0)
    const long = await track([channel], 1e-9)
    near(short.levels, long.levels, 1e-3)
    expect(short.lufs).toBeCloseTo(long.lufs ?? 0, 3)
    const most = short.reading.bands.mid.reduce((a, b) => Math.max(a, b), 0)
    near(short.reading.bands.mid, long.reading.bands.mid, most * 1e-4)
    near(short.reading.bands.side, long.reading.bands.side, most * 1e-4)
  })

  it('hears a mono track at one side in its sides, and a stereo one where it is', async () => {
    const energy = (v: Float32Array) => v.reduce((a, b) => a + b, 0)
    const left = (await track([channel], -1)).reading.bands
    expect(energy(left.side) / energy(left.mid)).toBeCloseTo(1, 3)
    const opposed = (await track([channel, channel.map((v) => -v)], 0)).reading.bands
    expect(energy(opposed.mid)).toBeLessThan(1e-9 * energy(opposed.side))
  })

  it('looks for rings in the recording alone, wherever it stands in the session', async () => {
    const recorded = input([channel])
    const whole = await answer('rings', recorded, () => {})
    const at = { fromFrame: 4800, toFrame: 4800 + RATE }
    expect(
      await answer(
        'rings',
        { ...recorded, sound: { ...recorded.sound, offsetFrames: 4800 }, stretch: at } as never,
        () => {},
      ),
    ).toEqual(whole)
  })

  it('renders what it measures, as a WAV of the stretch’s length', async () => {
    const { blob, lufs } = await answer(
      'render',
      { ...input([channel]), bits: 24, normalise: null },
      () => {},
    )
    expect(blob.size).toBe(44 + 3 * RATE)
    expect(lufs).toBeCloseTo((await track([channel], 0)).lufs ?? 0, 1)
  })
})

describe('a part of the mix over a bed', () => {
  it('is the same when tracks added themselves to the bed while they were measured', async () => {
    const edits: Edit[] = [
      addEqualiser('a', 'e', [{ hz: 3000, db: 6 }], 'linear'),
      { kind: 'set-node', node: 'a', change: { pan: -0.4, faderDb: -3 } },
      { kind: 'set-node', node: 'b', change: { pan: 0.7 } },
      { kind: 'add-group', id: 'g', name: 'Group', members: ['c'] },
    ]
    const session = applyEdits(sessionOf(['a', 'b', 'c', 'd']), [...edits, ...QUIET])
    const plan = renderPlan(session, designLater)
    const recordings = new Map(
      session.tracks.map(({ audio }, i) => {
        const sound = channel.map((v, k) => v * Math.cos(k / (50 + 20 * i)))
        return [audio.hash, { ...recording([sound]), hash: audio.hash }]
      }),
    )
    const parts = mixParts(0, RATE, RATE)
    const beds = new MixBeds()
    const filling = beds.fill('k', parts, RATE)
    if (!filling) throw new Error('There is no bed to fill.')
    const alone = session.tracks.filter(({ id }) => trackAlone(plan, id))
    // What flows through a group or is muted is not.
    expect(alone.map((t) => t.id)).toEqual(['a', 'b'])
    for (const { id } of alone) {
      const sound = soundOf(session, id, 'placed')
      if (!sound) throw new Error('It has all of its tracks.')
      const node = trackAlone(plan, id) as NodePlan
      const bed = { target: filling.target, pan: node.pan, gainDb: node.faderDb }
      await answer('track', { sound, recordings, stretch, moments, bed }, () => {})
      filling.add(node)
    }
    filling.seal()
    const sound = mixSound(session, plan)
    const mixed = { sound, recordings, part: parts[0], frames: RATE }
    const heard = await beds.use('k', parts[0], RATE, plan, async (bed) => {
      // Only what was not added is rendered for it.
      expect([...recordingsOfChange(bed as MixBed, plan)]).toEqual([session.tracks[2].audio.hash])
      return answer('mixPart', { ...mixed, bed }, () => {})
    })
    const anew = await answer('mixPart', { ...mixed, bed: null }, () => {})
    near(heard.steps, anew.steps, 1e-6 * Math.max(...anew.steps))
    expect(heard.peak).toBeCloseTo(anew.peak, 5)
    expect(anew.peak).toBeGreaterThan(0.05)
  })

  it('begins anew where a track broke off while it was adding itself', async () => {
    const beds = new MixBeds()
    const parts = mixParts(0, RATE, RATE)
    const filling = beds.fill('k', parts, RATE)
    filling?.target.parts[0].left.fill(1)
    filling?.spoil()
    filling?.seal()
    const bed = await beds.use('k', parts[0], RATE, bedPlan([]), async (b) => b)
    expect(bed?.plan).toBeNull()
    expect(bed?.left.every((v) => v === 0)).toBe(true)
    expect(beds.fill('k', parts, RATE)).toBeNull()
  })

  it('takes a treatment out again that was designed elsewhere', async () => {
    const [part] = mixParts(0, RATE, RATE)
    const plain = sessionOf(['a'])
    const recordings = new Map([[hashOf(0), { ...recording([channel]), hash: hashOf(0) }]])
    const treated = applyEdits(plain, [addEqualiser('a', 'e', [{ db: 12 }], 'linear')])
    const bed = { left: new Float32Array(RATE), right: new Float32Array(RATE) }
    let before: MixPlan | null = null
    const loudest: number[] = []
    for (const session of [plain, treated, plain]) {
      const plan = renderPlan(session, designLater)
      const mixed = { sound: mixSound(session, plan), recordings, part, frames: RATE }
      await answer('mixPart', { ...mixed, bed: { ...bed, plan: before } }, () => {})
      before = plan
      loudest.push(bed.left.reduce((most, v) => Math.max(most, Math.abs(v)), 0))
    }
    expect(loudest[1]).toBeGreaterThan(1.05 * loudest[0])
    expect(loudest[2]).toBeCloseTo(loudest[0], 5)
  })
})

describe('a picture over time', () => {
  const edgesHz = Float64Array.from({ length: 61 }, (_, i) => 100 * 2 ** (i / 10))
  const at = (hz: number) => Math.floor(10 * Math.log2(hz / 100))
  const two = Float32Array.from(
    { length: RATE },
    (_, i) => Math.sin((2 * Math.PI * (i < RATE / 2 ? 440 : 1760) * i) / RATE) / 2,
  )
  const view = { rows: 20, size: 2048, edgesHz }
  const row = (levels: Float32Array, r: number) => levels.subarray(60 * r, 60 * (r + 1))

  /** Nothing is done to it, but it is not known as such: read in turn. */
  const unchanged = chainWith([newTreatment('equaliser', 'none', 'fit')])
  const draw = (audio: Float32Array[], chain = chainWith([]), of: object = {}) =>
    answer('spectrogram', { ...view, ...input(audio, chain), ...of }, () => {})

  it.each([
    ['as recorded', chainWith([])],
    ['behind a chain', unchanged],
  ] as const)('shows tones at their times and levels: %s', async (_, chain) => {
    const levels = await draw([two, two], chain)
    expect(row(levels, 5)[at(440)]).toBeCloseTo(-9, 0)
    expect(row(levels, 15)[at(1760)]).toBeCloseTo(-9, 0)
    expect(row(levels, 5)[at(1760)]).toBeLessThan(-60)
    expect(row(levels, 15)[at(440)]).toBeLessThan(-60)
  })

  it.each([
    [3, 4096],
    [20, 1024],
    [400, 16_384],
  ])('is the same made in turn as read anywhere: %d rows, windows of %d', async (rows, size) => {
    const noise = [channel, two]
    const [read, made] = await Promise.all(
      [chainWith([]), unchanged].map((chain) => draw(noise, chain, { rows, size })),
    )
    expect(read.length).toBe(60 * rows)
    near(made, read, 1e-3)
  })

  it('gives its rows while the rest is made, each once and as it stays', async () => {
    const rows = 64
    const asked = { ...view, ...input([two], unchanged), rows, size: 16_384 }
    // A clock that goes on by a tenth of a second at each look.
    let now = 0
    const clock = vi.spyOn(performance, 'now').mockImplementation(() => (now += 100))
    const parts: PicturePart[] = []
    const levels = await answer('spectrogram', asked, (share, part) => {
      if (part) parts.push(part)
      expect(share).toBeGreaterThan(0)
    })
    clock.mockRestore()
    expect(parts.length).toBeGreaterThan(10)
    let next = 0
    for (const { fromRow, levels: own } of parts) {
      expect(fromRow).toBe(next)
      expect(own).toEqual(levels.slice(60 * fromRow, 60 * fromRow + own.length))
      next += own.length / 60
    }
    // The last ones come with the whole.
    expect(next).toBeGreaterThan(rows - 3)
  })

  it('shows what the chain does, only behind it', async () => {
    const session = applyEdits(sessionOf(['a']), [
      addEqualiser('a', 'e', [{ hz: 440, db: -12, q: 2 }]),
    ])
    const chain = trimmedChain(session.tracks[0])
    const [before, after] = [await draw([two]), await draw([two], chain)]
    expect(row(after, 5)[at(440)] - row(before, 5)[at(440)]).toBeCloseTo(-12, 0)
  })

  it('shows the mix and a group, before their chains and behind them', async () => {
    const session = applyEdits(sessionOf(['a', 'b']), [
      { kind: 'add-group', id: 'g', name: 'G', members: ['a'] },
      addEqualiser('g', 'e', [{ hz: 440, db: -12, q: 2 }]),
      { kind: 'set-node', node: 'g', change: { faderDb: -20 } },
      { kind: 'set-node', node: 'b', change: { mute: true } },
    ])
    const recordings = new Map([0, 1].map((n) => [hashOf(n), recording([two, two])]))
    const level = async (id: string, tap: Tap) => {
      const sound = soundOf(session, id, tap)
      if (!sound) throw new Error('It has all of its nodes.')
      const levels = await answer('spectrogram', { ...view, sound, recordings, stretch }, () => {})
      return row(levels, 5)[at(440)]
    }
    const [before, after] = [await level('g', 'trimmed'), await level('g', 'chain')]
    expect(after - before).toBeCloseTo(-12, 0)
    expect((await level(MIX, 'chain')) - after).toBeCloseTo(-20, 0)
  })
})

describe('what a whole sound tells', () => {
  const tone = Float32Array.from(
    { length: RATE },
    (_, i) => Math.sin((2 * Math.PI * 80 * i) / RATE) / 2,
  )
  it('is its low end, behind its chain', async () => {
    const turned = tone.map((v) => -v)
    const lowMiddle = chainWith([newTreatment('low-middle', 'l', 'fit')])
    const { sound } = input([tone, turned], lowMiddle)
    const asked = { ...input([tone, turned]), sound, hz: 100 }
    const without = input([tone, turned]).sound
    const { before, after } = await answer('lowEnd', { ...asked, without }, () => {})
    expect(before.below.monoLoss).toBeGreaterThan(30)
    expect(after.below.side).toBeLessThan(before.below.side - 10)
  })

  it('is what the bands of a crossover add up to', async () => {
    const spec = { slopeDbPerOct: 24, hz: [60, 300] } as const
    const summed = (kind: 'linear' | 'linkwitz-riley') =>
      answer('crossoverSum', { ...input([tone, tone]), spec: { ...spec, kind } }, () => {})
    const linear = await summed('linear')
    expect(linear.nullDb).toBeLessThan(-110)
    expect(linear.flatWithinDb).toBeLessThan(0.05)
    const riley = await summed('linkwitz-riley')
    expect(riley.nullDb).toBeNull()
    expect(riley.flatWithinDb).toBeLessThan(0.05)
  })

  it('is how uneven it is', async () => {
    // Ten seconds at one level and ten seconds 12 dB lower, with one sample at full scale.
    const steps = Float32Array.from(
      { length: 20 * RATE },
      (_, i) => (i < 10 * RATE ? 0.2 : 0.05) * Math.sin((2 * Math.PI * 997 * i) / RATE),
    )
    steps[RATE] = 1
    const long = { ...input([steps]), stretch: { fromFrame: 0, toFrame: steps.length } }
    const { rangeLu, peakOverDb } = await answer('range', long, () => {})
    expect(rangeLu).toBeCloseTo(12, 0)
    // A sine at 0.2 in one channel is at -17 LUFS, the other half 12 dB lower: 2.7 dB lower in all.
    expect(peakOverDb).toBeCloseTo(17 + 2.7, 0)
    const silent = await answer('range', input([new Float32Array(RATE)]), () => {})
    expect(silent).toEqual({ rangeLu: null, peakOverDb: null })
  })

  it('is its tempo', async () => {
    const clicks = new Float32Array(8 * RATE)
    for (let at = 0; at < clicks.length; at += RATE / 2) clicks[at] = 1
    const long = { ...input([clicks, clicks]), stretch: { fromFrame: 0, toFrame: 8 * RATE } }
    const found = await answer('tempo', long, () => {})
    expect(found?.beatsPerMinute).toBeCloseTo(120, 0)
    expect(await answer('tempo', input([new Float32Array(RATE)]), () => {})).toBeNull()
  })
})

describe('two tracks added up', () => {
  it('gives their spectra as recorded, and the level of their sum as they stand', async () => {
    const { sound, recordings } = input([channel])
    const paired = (gain: number) => ({ recorded: sound, treated: sound, gain })
    const add = (gain: number) =>
      answer('pair', { tracks: [paired(1), paired(gain)], recordings, stretch }, () => {})
    const twice = await add(1)
    const gone = await add(-1)
    const once = await add(0)
    near(twice.cross.first, twice.cross.re, 1e-9)
    near(
      twice.sum,
      once.sum.map((db) => db + 20 * Math.log10(2)),
      0.01,
    )
    expect(Math.max(...gone.sum)).toBeLessThan(-100)
  })
})

describe('what short-time spectra tell of a mix', () => {
  it('is what they tell of the sum', async () => {
    const session = sessionOf(['d'])
    const recordings = new Map([[session.tracks[0].audio.hash, recording([channel])]])
    const sound = soundOf(session, MIX, 'chain') as Sound
    const reading = await answer('source', { sound, recordings, stretch }, () => {})
    const own = readSource(makeClip(RATE, [channel, channel]))
    expect(reading.bands.frames).toBe(own.bands.frames)
    expect(reading.bands.mid.buffer).toBeInstanceOf(SharedArrayBuffer)
    // Its sum, at whatever gain of the track: everything is as much louder.
    const at = own.levels.indexOf(Math.max(...own.levels))
    const gain = reading.levels[at] - own.levels[at]
    near(
      reading.levels.filter((_, i) => own.levels[i] > own.levels[at] - 30),
      own.levels.filter((db) => db > own.levels[at] - 30).map((db) => db + gain),
      0.1,
    )
    expect(reading.rings.map((r) => Math.round(r.hz))).toEqual(
      own.rings.map((r) => Math.round(r.hz)),
    )
  })
})

describe('a leveller over time', () => {
  it('takes what its static curve says where it is loud, and tells the loudness on both sides', async () => {
    const params = {
      ...newTreatment('leveller', 'l', 'shape').params,
      ...{ thresholdDb: -30, ratio: 4, kneeDb: 0, atMostDb: 24, attackMs: 1, releaseMs: 20 },
      ...{ detector: 'fast' as const, lowCutHz: 20 },
    }
    // A second at 1 kHz: the first half so soft that loudness leaves it out.
    const tone = Float32Array.from(
      { length: RATE },
      (_, i) => (i < RATE / 2 ? 0.001 : 0.2) * Math.sin((2 * Math.PI * 1000 * i) / RATE),
    )
    const asked = { ...input([tone]), params }
    const { gainsDb, beforeLufs, afterLufs } = await answer('levelled', asked, () => {})
    // The soft half stays under the threshold; the loud one, -17 dB, stands 13 dB over it.
    expect(Math.abs(gainsDb[Math.floor(0.3 * gainsDb.length)])).toBeLessThan(0.05)
    expect(gainsDb[Math.floor(0.9 * gainsDb.length)]).toBeCloseTo(-13 * (1 - 1 / 4), 0)
    expect((beforeLufs ?? 0) - (afterLufs ?? 0)).toBeCloseTo(13 * (1 - 1 / 4), 0)
  })
})

describe('a rendered mix', () => {
  it('is brought to a true peak, by the same sound', async () => {
    const session = sessionOf(['d'])
    const recordings = new Map([[session.tracks[0].audio.hash, recording([channel])]])
    const sound = soundOf(session, MIX, 'fader') as Sound
    const asked = { sound, recordings, stretch, bits: '32f' as const }
    const render = (normalise: { to: 'peak'; dbtp: number } | null) =>
      answer('render', { ...asked, normalise }, () => {})
    const [as, to] = [await render(null), await render({ to: 'peak', dbtp: -2 })]
    expect(as.normalised).toBeNull()
    expect(to.truePeakDbtp).toBeCloseTo(-2, 4)
    const gainDb = to.normalised?.gainDb ?? 0
    expect((to.lufs ?? 0) - (as.lufs ?? 0)).toBeCloseTo(gainDb, 3)
    const samples = async ({ blob }: { blob: Blob }) =>
      new Float32Array((await blob.arrayBuffer()).slice(44))
    const [a, b] = [await samples(as), await samples(to)]
    near(
      a.map((v) => v * 10 ** (gainDb / 20)),
      b,
      1e-6,
    )
  })
})
