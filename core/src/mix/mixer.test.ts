import { describe, expect, it } from 'vitest'
import { type AudioSource, dbToAmplitude, MemorySource } from '../audio'
import {
  applyEdits,
  chainWith,
  type Edit,
  type Session,
  type TrimmedChain,
  trimmedChain,
} from '../session'
import { clickRatio } from '../testing/clicks'
import {
  add,
  addEqualiser,
  apart,
  planOf,
  RATE,
  recordingsOf,
  sessionOf,
} from '../testing/sessions'
import { rms, sine, whiteNoise } from '../testing/signals'
import { newTreatment, type Treatment } from '../treatments'
import { DUCK_DEFAULTS } from '../treatments/duck/params'
import {
  ChainRun,
  chainPlan,
  designNow,
  listeningPlan,
  Mixer,
  type MixPlan,
  panGains,
  type ReadAudio,
  Renditions,
  renderMix,
  renderOverBed,
  renderPlan,
  Transport,
} from './index'

const SECONDS = 2
const NOW = designNow(RATE)
const SESSION = 'session'
const WHOLE = { fromFrame: 0, toFrame: SECONDS * RATE }
const heard = (session: Session): MixPlan => listeningPlan(session, NOW)

/** Plays in blocks of the audio thread's size; `act` may change things before each block. */
function play(
  made: Session,
  audio: ReadonlyMap<string, AudioSource>,
  seconds: number,
  act: (transport: Transport, renditions: Renditions, block: number) => void = () => {},
): Float32Array[] {
  const renditions = new Renditions(RATE, 1024)
  for (const [hash, source] of audio) renditions.setAudio(hash, source)
  renditions.set(SESSION, heard(made))
  const transport = new Transport(renditions, RATE)
  transport.play()
  const frames = Math.round(seconds * RATE)
  const out = [new Float32Array(frames), new Float32Array(frames)]
  for (let at = 0, block = 0; at + 128 <= frames; at += 128, block++) {
    act(transport, renditions, block)
    transport.process(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128), 128)
  }
  return out
}

const ALIGNED = { delayFrames: 12.5, polarity: -1 as const, turnDeg: 0 }

describe('treatments that look at the sound from moment to moment', () => {
  it.each(['minimum', 'linear'] as const)('do the same wherever one started: %s phase', (phase) => {
    const recordings = recordingsOf(
      [whiteNoise(SECONDS * RATE, 3, 0.3)],
      [whiteNoise(SECONDS * RATE, 4, 0.2)],
    )
    const params = { ...DUCK_DEFAULTS, phase, depthDb: 12, releaseMs: 20, releaseByHz: false }
    const made = applyEdits(sessionOf(['t0', 't1']), [
      add('t1', {
        ...newTreatment('duck', 'd', 'fit', params),
        key: { node: 't0', tap: 'before-fader', as: 'mono' },
      } as Treatment),
    ])
    const from = (start: number) => {
      const [left] = play(made, recordings, 1.5 - start / RATE, (transport, _, block) => {
        if (block === 0) transport.seek(start)
      })
      // Half a second later all that began has settled.
      return left.subarray(RATE - start, RATE - start + 12_000)
    }
    const whole = from(0)
    for (const start of [1, 300, 12_345, 20_000]) {
      const after = from(start).map((v, i) => v - whole[i])
      expect(20 * Math.log10(rms(after) / rms(whole))).toBeLessThan(-100)
    }
  })

  it('begins right behind a loop with what is there, though the grid lies in the loop', () => {
    const recordings = recordingsOf([whiteNoise(SECONDS * RATE, 5, 0.3)])
    const made = applyEdits(sessionOf(['t0']), [
      addEqualiser('t0', 'e', [{ db: -6, hz: 3000 }], 'linear'),
    ])
    const start = 48_100
    const from = (loop: { fromFrame: number; toFrame: number } | null) =>
      play(made, recordings, 0.3, (transport, _, block) => {
        if (block > 0) return
        transport.setLoop(loop)
        transport.seek(start)
      })[0]
    expect(apart(from({ fromFrame: 10_000, toFrame: 48_050 }), from(null))).toBe(0)
  })
})

describe('the click detector', () => {
  it('finds planted clicks and leaves steady sound alone', () => {
    const tone = sine(1000, 1, RATE, 0.5)
    expect(clickRatio(tone, RATE)).toBeLessThan(1.5)
    expect(clickRatio(whiteNoise(RATE, 1, 0.5), RATE)).toBeLessThan(4)
    const spoiled = tone.slice()
    for (let i = 20011; i < spoiled.length; i++) spoiled[i] += 0.005
    expect(clickRatio(spoiled, RATE)).toBeGreaterThan(20)
  })
})

describe('the mixer', () => {
  it('adds tracks at their faders and pans, and carries what is heard into the render', () => {
    const made = applyEdits(sessionOf(['a', 'b']), [
      { kind: 'set-node', node: 'a', change: { faderDb: -6, pan: -1 } },
      addEqualiser('b', 'm', [{ db: 6, hz: 2000 }], 'minimum', 'shape'),
      addEqualiser('mix', 'n', [{ db: -3, hz: 500, q: 2 }]),
    ])
    const audio = recordingsOf(
      [sine(300, SECONDS, RATE, 0.3)],
      [whiteNoise(SECONDS * RATE, 4, 0.2)],
    )
    const rendered = renderMix(renderPlan(made, NOW), audio, RATE, WHOLE)
    const played = play(made, audio, SECONDS)
    expect(apart(played[0], rendered.channels[0], RATE / 10, RATE)).toBeLessThan(1e-6)
    expect(rms(rendered.channels[0], RATE)).toBeGreaterThan(rms(rendered.channels[1], RATE))
  })

  it('pans at constant power, and keeps a stereo track whole in the middle', () => {
    for (let pan = -1; pan <= 1; pan += 0.1) {
      const [l, r] = panGains(pan, 1)
      expect(l * l + r * r).toBeCloseTo(1, 9)
    }
    expect(panGains(0, 2)).toEqual([1, 1])
    expect(panGains(1, 2)[0]).toBeCloseTo(0, 9)
  })

  it('renders tracks that are left as they are like those that are treated, late, turned over or muted', () => {
    const made = applyEdits(sessionOf(['a', 'b', 'c', 'd', 'e', 'f', 'g']), [
      { kind: 'set-node', node: 'a', change: { faderDb: -3, pan: -0.4 } },
      { kind: 'set-chain-output', node: 'b', change: { polarity: 'inverted', gainDb: -2 } },
      { kind: 'set-node', node: 'c', change: { mute: true } },
      addEqualiser('d', 'm', [{ db: 6 }], 'minimum', 'clean'),
      { kind: 'set-node', node: 'e', change: { faderDb: 2 } },
    ])
    made.tracks[1].offsetFrames = 700
    made.tracks[4].offsetFrames = -300
    const audio = recordingsOf(
      ...made.tracks.map((_, i) => [whiteNoise(SECONDS * RATE, i + 1, 0.1)]),
    )
    const rendered = renderMix(renderPlan(made, NOW), audio, RATE, { fromFrame: 0, toFrame: RATE })
    // With taps, every track goes the long way.
    const mixer = new Mixer(RATE)
    for (const [hash, source] of audio) mixer.setAudio(hash, source)
    mixer.set(renderPlan(made, NOW))
    const [left, right] = [new Float32Array(RATE), new Float32Array(RATE)]
    let at = 0
    const read: ReadAudio = (source, channel, offset, ahead, out, n) => {
      source.read(channel, at + ahead - offset, out, n)
    }
    for (; at < RATE; at += 1000) {
      const block = [left, right].map((c) => c.subarray(at, at + 1000))
      mixer.process(block[0], block[1], 1000, read, { node: () => {} })
    }
    expect(apart(left, rendered.channels[0])).toBeLessThan(1e-6)
    expect(apart(right, rendered.channels[1])).toBeLessThan(1e-6)
    expect(rms(rendered.channels[0])).toBeGreaterThan(0.02)
  })

  it('keeps a bed up to date: what is rendered over it is the mix, change after change', () => {
    let made = sessionOf(['a', 'b', 'c'])
    const audio = recordingsOf(
      ...made.tracks.map((_, i) => [whiteNoise(SECONDS * RATE, i + 1, 0.1)]),
    )
    const stretch = { fromFrame: 4800, toFrame: 4800 + RATE }
    const bed = { left: new Float32Array(RATE), right: new Float32Array(RATE) }
    let inBed: MixPlan | null = null
    const changes: Edit[] = [
      { kind: 'set-session', change: { name: 'as it is' } },
      addEqualiser('a', 'm', [{ db: -6 }], 'minimum', 'clean'),
      { kind: 'set-node', node: 'b', change: { mute: true } },
      { kind: 'set-node', node: 'b', change: { mute: false, faderDb: -4 } },
      { kind: 'add-group', id: 'g', name: 'G', members: ['a', 'b'] },
      addEqualiser('g', 'o', [{ db: 4, hz: 300 }], 'linear'),
      { kind: 'set-node', node: 'mix', change: { faderDb: 3 } },
      { kind: 'remove-node', node: 'c' },
      // The mix's own filter has to be in swing: here it is compared some time after the beginning.
      addEqualiser('mix', 'n', [{ db: 5, q: 1 }]),
    ]
    for (const change of changes) {
      made = applyEdits(made, [change])
      const plan = renderPlan(made, NOW)
      const over = renderOverBed(plan, audio, RATE, stretch, { ...bed, plan: inBed })
      inBed = structuredClone(plan)
      const whole = renderMix(plan, audio, RATE, stretch)
      for (const side of [0, 1]) {
        expect(apart(over.channels[side], whole.channels[side], RATE / 2)).toBeLessThan(2e-6)
      }
      expect(rms(whole.channels[0])).toBeGreaterThan(0.02)
    }
  })

  it('gives a part of the piece as it is in the whole', () => {
    const plan = planOf(sessionOf(['a']), addEqualiser('a', 'm', [{ type: 'low-cut', hz: 30 }]))
    const audio = recordingsOf([whiteNoise(SECONDS * RATE, 4, 0.2)])
    const whole = renderMix(plan, audio, RATE, WHOLE).channels[0]
    const part = renderMix(plan, audio, RATE, { fromFrame: RATE, toFrame: 2 * RATE }).channels[0]
    expect(apart(part, whole.subarray(RATE))).toBeLessThan(1e-5)
  })

  it.each(['mixed', 'linear'] as const)(
    'plays and renders %s phase alike, and in its place',
    (phase) => {
      const made = applyEdits(sessionOf(['a', 'b']), [
        addEqualiser('a', 'm', [{ db: 9, hz: 4000, q: 1 }], phase),
        addEqualiser('mix', 'n', [{ db: -3, hz: 2500, q: 0.7 }], 'linear'),
      ])
      const click = new Float32Array(SECONDS * RATE)
      click[RATE] = 0.5
      const audio = recordingsOf([click], [whiteNoise(SECONDS * RATE, 4, 0.1)])
      const rendered = renderMix(renderPlan(made, NOW), audio, RATE, WHOLE)
      const played = play(made, audio, SECONDS)
      expect(apart(played[0], rendered.channels[0], RATE / 10, SECONDS * RATE - 128)).toBeLessThan(
        3e-6,
      )
      const alone = treat(trimmedChain(made.tracks[0]), [click], 0)[0]
      const peak = alone.reduce((best, v, i) => (Math.abs(v) > Math.abs(alone[best]) ? i : best), 0)
      expect(peak).toBe(RATE)
    },
  )

  it('renders a track through its chain only, at its place', () => {
    const chain = { ...chainWith([]), output: { gainDb: -6, polarity: 'inverted' as const } }
    const audio = [sine(300, 1, RATE, 0.3)]
    const out = treat(chain, audio, 100)[0]
    expect(out[99]).toBeCloseTo(0, 12)
    expect(out[100 + 777]).toBeCloseTo(-dbToAmplitude(-6) * audio[0][777], 6)
  })
})

/** A sound through a chain over a second or more. */
function treat(chain: TrimmedChain, audio: Float32Array[], offset: number) {
  const stretch = { fromFrame: 0, toFrame: audio[0].length }
  const run = new ChainRun(
    chainPlan(chain, '', NOW),
    new MemorySource(audio),
    offset,
    RATE,
    stretch,
  )
  const pieces: Float32Array[][] = []
  while (!run.done) pieces.push(run.next())
  return audio.map((_, c) => Float32Array.from(pieces.flatMap((p) => [...p[c]])))
}

describe('changes while playing', () => {
  const tone = recordingsOf([sine(1000, SECONDS, RATE, 0.3)], [sine(1000, SECONDS, RATE, 0.3)])
  const steady = (signal: Float32Array) => signal.subarray(RATE / 4, SECONDS * RATE - RATE / 8)
  const at = (block: number, seconds: number) => block === Math.round((seconds * RATE) / 128)
  const set = (node: string, change: Extract<Edit, { kind: 'set-node' }>['change']): Edit => ({
    kind: 'set-node',
    node,
    change,
  })

  it.each<[string, Edit[]]>([
    ['mute', [set('a', { mute: true })]],
    ['solo', [set('b', { solo: true })]],
    ['lift', [set('a', { lift: true })]],
    ['a fader from 0 to -40 dB', [set('a', { faderDb: -40 })]],
    ['pan', [set('a', { pan: 1 })]],
    ['a new bell of +12 dB', [addEqualiser('a', 'm', [{ db: 12 }])]],
    ['a new alignment', [add('a', newTreatment('align', 'x', 'fit', ALIGNED))]],
    ['a new group', [{ kind: 'add-group', id: 'g', name: 'G', members: ['a'] }]],
    ['the removal of a track that sounds', [{ kind: 'remove-node', node: 'a' }]],
    [
      'polarity with a trim',
      [{ kind: 'set-chain-output', node: 'a', change: { polarity: 'inverted', gainDb: -6 } }],
    ],
  ])('%s makes no click', (_, edits) => {
    const made = sessionOf(['a', 'b'])
    const [left] = play(made, tone, SECONDS, (transport, __, block) => {
      if (at(block, 1)) transport.setPlan(SESSION, heard(applyEdits(made, edits)))
    })
    expect(clickRatio(steady(left), RATE)).toBeLessThan(4)
    expect(rms(steady(left), RATE)).toBeGreaterThan(0.05)
  })

  it.each<[string, Edit[], Edit[]]>([
    [
      'an equaliser that is taken away',
      [addEqualiser('a', 'm', [{ db: 12 }])],
      [{ kind: 'remove-treatment', node: 'a', treatment: 'm' }],
    ],
    [
      'another order of treatments',
      [addEqualiser('a', 'm', [{ db: 12 }]), addEqualiser('a', 'n', [{ db: -9, hz: 700 }])],
      [{ kind: 'move-treatment', node: 'a', treatment: 'n', stage: 'fit', before: 'm' }],
    ],
    [
      'a group that is taken away',
      [{ kind: 'add-group', id: 'g', name: 'G', members: ['a'] }],
      [{ kind: 'remove-node', node: 'g' }],
    ],
  ])('%s makes no click', (_, before, edits) => {
    const made = applyEdits(sessionOf(['a', 'b']), before)
    const [left] = play(made, tone, SECONDS, (transport, __, block) => {
      if (at(block, 1)) transport.setPlan(SESSION, heard(applyEdits(made, edits)))
    })
    expect(clickRatio(steady(left), RATE)).toBeLessThan(4)
  })

  it('a removed track is silent afterwards', () => {
    const made = sessionOf(['a', 'b'])
    const [left] = play(made, tone, SECONDS, (transport, __, block) => {
      if (!at(block, 0.5)) return
      const edits: Edit[] = ['a', 'b'].map((node) => ({ kind: 'remove-node', node }))
      transport.setPlan(SESSION, heard(applyEdits(made, edits)))
    })
    expect(rms(left.subarray(RATE, 1.5 * RATE))).toBe(0)
  })

  it('mono, seek, pause and the loop’s end make no click', () => {
    const made = applyEdits(sessionOf(['a', 'b']), [
      set('a', { pan: -1 }),
      addEqualiser('a', 'm', [{ db: 12 }]),
    ])
    const [left] = play(made, tone, SECONDS, (transport, renditions, block) => {
      if (block === 0) transport.setLoop({ fromFrame: 1000, toFrame: 20017 })
      if (at(block, 0.9)) renditions.listen({ position: 'mono', dim: false })
      if (at(block, 1.3)) transport.seek(5003)
      if (at(block, 1.5)) transport.pause()
      if (at(block, 1.6)) transport.play()
    })
    expect(clickRatio(steady(left), RATE)).toBeLessThan(4)
  })

  it('sides hold what differs between left and right, dim is 20 dB lower, and neither clicks', () => {
    const made = applyEdits(sessionOf(['a']), [set('a', { pan: -1 })])
    const heardAs = (position: 'mono' | 'sides', dim: boolean) =>
      play(made, tone, SECONDS, (_, renditions, block) => {
        if (at(block, 0.9)) renditions.listen({ position, dim })
      })
    const late = (signal: Float32Array) => rms(signal.subarray(1.2 * RATE, 1.8 * RATE))
    const early = (signal: Float32Array) => rms(signal.subarray(0.2 * RATE, 0.8 * RATE))
    for (const [position, sign] of [
      ['mono', 1],
      ['sides', -1],
    ] as const) {
      const [left, right] = heardAs(position, false)
      expect(20 * Math.log10(late(left) / early(left))).toBeCloseTo(-6.02, 1)
      for (let i = 1.2 * RATE; i < 1.3 * RATE; i++) expect(right[i]).toBeCloseTo(sign * left[i], 6)
      const [dimmed] = heardAs(position, true)
      expect(20 * Math.log10(late(dimmed) / late(left))).toBeCloseTo(-20, 1)
      expect(clickRatio(steady(dimmed), RATE)).toBeLessThan(4)
    }
    // What is alike on both sides is not among what differs.
    const [silent] = play(sessionOf(['a']), tone, SECONDS, (_, renditions, block) => {
      if (block === 0) renditions.listen({ position: 'sides', dim: false })
    })
    expect(late(silent)).toBeLessThan(1e-6)
  })

  it('listens to one channel on both sides, to both exchanged, or with one turned', () => {
    const made = applyEdits(sessionOf(['a', 'b']), [
      set('a', { pan: -1 }),
      set('b', { pan: 1, faderDb: -6 }),
    ])
    const heardAs = (position: 'stereo' | 'left' | 'right' | 'exchanged' | 'turned') =>
      play(made, tone, SECONDS, (_, renditions, block) => {
        if (at(block, 0.9)) renditions.listen({ position, dim: false })
      })
    const [plainLeft, plainRight] = heardAs('stereo')
    const turned = plainRight.map((v) => -v)
    for (const [position, wanted] of [
      ['left', [plainLeft, plainLeft]],
      ['right', [plainRight, plainRight]],
      ['exchanged', [plainRight, plainLeft]],
      ['turned', [plainLeft, turned]],
    ] as const) {
      const sides = heardAs(position)
      sides.forEach((signal, side) => {
        for (let i = 1.2 * RATE; i < 1.4 * RATE; i++) {
          expect(signal[i]).toBeCloseTo(wanted[side][i], 6)
        }
        expect(clickRatio(steady(signal), RATE)).toBeLessThan(4)
      })
    }
  })

  it('another phase mode goes on where it was, and a plan that takes it back does not fall silent', () => {
    const source = whiteNoise(SECONDS * RATE, 6, 0.2)
    // At 20 kHz and 0 dB nothing changes but the latency.
    const plan = (phase: 'minimum' | 'linear') =>
      heard(applyEdits(sessionOf(['a']), [addEqualiser('a', 'm', [{ db: 0 }], phase)]))
    const made = applyEdits(sessionOf(['a']), [addEqualiser('a', 'm', [{ db: 0 }])])
    const [left] = play(made, recordingsOf([source]), SECONDS, (transport, _, block) => {
      if (at(block, 0.5)) transport.setPlan(SESSION, plan('linear'))
      if (at(block, 1.2)) transport.setPlan(SESSION, plan('minimum'))
      // Taken back in the middle of the fade.
      if (at(block - 1, 1.2)) transport.setPlan(SESSION, plan('linear'))
    })
    for (const from of [0.9, 1.5]) {
      for (let i = Math.round(from * RATE); i < (from + 0.1) * RATE; i++) {
        expect(Math.abs(left[i] - Math.SQRT1_2 * source[i])).toBeLessThan(1e-4)
      }
    }
  })

  it('loops exactly over the passage', () => {
    const ramp = Float32Array.from({ length: SECONDS * RATE }, (_, i) => i / (SECONDS * RATE))
    const [left] = play(sessionOf(['a']), recordingsOf([ramp]), 1, (transport, _, block) => {
      if (block === 0) transport.setLoop({ fromFrame: 9600, toFrame: 19200 })
      if (block === 1) transport.seek(9600)
    })
    const value = (i: number) => left[i] / Math.SQRT1_2
    const early = 4000
    expect(value(early + 9600)).toBeCloseTo(value(early), 6)
  })

  describe('at the end of the piece', () => {
    const end = 9600
    const piece = whiteNoise(end, 3, 0.2)
    const through = (loop: { fromFrame: number; toFrame: number } | null, start = 0) => {
      const heads: number[] = []
      const playing: boolean[] = []
      const [left] = play(sessionOf(['a']), recordingsOf([piece]), 1, (transport, _, block) => {
        if (block === 0) transport.setLoop(loop, end)
        if (block === 0 && start > 0) transport.seek(start)
        if (at(block, 0.5)) transport.play()
        heads.push(transport.positionFrames)
        playing.push(transport.playing)
      })
      return { left, heads, playing }
    }

    it('loops the whole piece where that is to loop, never beyond it', () => {
      const { left, heads } = through({ fromFrame: 0, toFrame: end })
      expect(Math.max(...heads)).toBeLessThan(end)
      // From turn to turn the same sound; a fade in at first, a crossfade at each end.
      for (let i = 1000; i < end - 2000; i++) {
        expect(left[i + 2 * end]).toBeCloseTo(Math.SQRT1_2 * piece[i], 5)
      }
    })

    it('stops without a loop; started again, it begins at the beginning', () => {
      const { left, heads, playing } = through(null)
      const stopped = end / 128 + 20
      expect([playing[stopped - 40], playing[stopped]]).toEqual([true, false])
      expect(heads[stopped]).toBe(end)
      expect(rms(left.subarray(end + 1000, 0.5 * RATE))).toBe(0)
      expect(rms(left.subarray(0.5 * RATE + 1000, 0.5 * RATE + 5000))).toBeGreaterThan(0.05)
      expect(heads[Math.round((0.55 * RATE) / 128)]).toBeLessThan(end)
    })

    it('goes into the loop where one began behind it', () => {
      const { heads } = through({ fromFrame: 2000, toFrame: 4000 }, 6000)
      expect(Math.max(...heads)).toBeLessThan(end + 600)
      expect(heads.at(-1)).toBeGreaterThanOrEqual(2000)
      expect(heads.at(-1)).toBeLessThan(4000)
    })
  })

  it('waits for audio that is not at hand, and begins where it was asked to', () => {
    const source = whiteNoise(SECONDS * RATE, 6, 0.2)
    let ready = false
    const renditions = new Renditions(RATE, 1024)
    for (const [hash, audio] of recordingsOf([source])) renditions.setAudio(hash, audio)
    renditions.set(SESSION, heard(sessionOf(['a'])))
    const transport = new Transport(renditions, RATE, () => ready)
    transport.seek(5000)
    transport.play()
    const [left, right] = [new Float32Array(1024), new Float32Array(1024)]
    transport.process(left, right, 1024)
    expect(rms(left)).toBe(0)
    expect(transport.positionFrames).toBe(5000)
    ready = true
    transport.process(left, right, 1024)
    expect(transport.positionFrames).toBe(6024)
    expect(left[1000]).toBeCloseTo(Math.SQRT1_2 * source[6000], 5)
  })
})
