import { describe, expect, it } from 'vitest'
import { dbToAmplitude } from '../audio'
import { emptyChain, emptySession, type Move, newBand, newTrack, type Session } from '../session'
import { clickRatio } from '../testing/clicks'
import { rms, sine, whiteNoise } from '../testing/signals'
import {
  chainKernels,
  listeningPlan,
  Mixer,
  panGains,
  type ReadAudio,
  readStretch,
  renderMix,
  renderOverBed,
  renderPlan,
  renderTrack,
  type TrackAudio,
  Transport,
  withKernels,
} from './index'

const RATE = 48000
const SECONDS = 2

function session(...names: string[]): Session {
  const made = emptySession('s', 'n', '2026-03-04T05:06:07.000Z', RATE)
  for (const name of names) {
    const audio = { hash: 'c'.repeat(64), channels: 1, frames: SECONDS * RATE }
    made.tracks.push(newTrack(name, name, 'other', name.toUpperCase(), audio))
  }
  return made
}

function move(id: string, change: Partial<Move['band']>): Move {
  return { id, on: true, reason: '', evidence: null, band: { ...newBand('bell', 1000), ...change } }
}

/** Plays in blocks of the audio thread's size; `act` may change things before each block. */
function play(
  made: Session,
  audio: ReadonlyMap<string, TrackAudio>,
  seconds: number,
  act: (transport: Transport, mixer: Mixer, block: number) => void = () => {},
): Float32Array[] {
  const mixer = new Mixer(RATE)
  for (const [id, channels] of audio) mixer.setAudio(id, channels)
  mixer.set(withKernels(listeningPlan(made), (chain) => chainKernels(chain, RATE)))
  const transport = new Transport(mixer, RATE)
  transport.play()
  const frames = Math.round(seconds * RATE)
  const out = [new Float32Array(frames), new Float32Array(frames)]
  for (let at = 0, block = 0; at + 128 <= frames; at += 128, block++) {
    act(transport, mixer, block)
    transport.process(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128), 128)
  }
  return out
}

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
    const made = session('a', 'b')
    made.tracks[0].faderDb = -6
    made.tracks[0].pan = -1
    made.tracks[1].chain.shape.moves.push(move('m', { db: 6, hz: 2000 }))
    made.mix.chain.fit.moves.push(move('n', { db: -3, hz: 500, q: 2 }))
    const audio = new Map<string, TrackAudio>([
      ['a', [sine(300, SECONDS, RATE, 0.3)]],
      ['b', [whiteNoise(SECONDS * RATE, 4, 0.2)]],
    ])
    const stretch = { fromFrame: 0, toFrame: SECONDS * RATE }
    const rendered = renderMix(renderPlan(made), audio, RATE, stretch)
    const played = play(made, audio, SECONDS)
    let worst = 0
    for (let i = RATE / 10; i < RATE; i++) {
      worst = Math.max(worst, Math.abs(played[0][i] - rendered.channels[0][i]))
    }
    expect(worst).toBeLessThan(1e-6)
    expect(rms(rendered.channels[0], RATE)).toBeGreaterThan(rms(rendered.channels[1], RATE))
  })

  it('keeps power while a mono track is panned, and a stereo track’s level in the middle', () => {
    for (const pan of [-1, -0.3, 0, 0.5, 1]) {
      const [l, r] = panGains(pan, 1)
      expect(l * l + r * r).toBeCloseTo(1, 9)
    }
    expect(panGains(0, 2)).toEqual([1, 1])
    expect(panGains(1, 2)[0]).toBeCloseTo(0, 9)
  })

  it('renders tracks that are left as they are like those that are treated, late, turned over or muted', () => {
    const made = session('a', 'b', 'c', 'd', 'e', 'f', 'g')
    const [a, b, c, d] = made.tracks
    Object.assign(a, { faderDb: -3, pan: -0.4 })
    Object.assign(b, { offsetFrames: 700 })
    Object.assign(made.tracks[4], { offsetFrames: -300, faderDb: 2 })
    b.chain.output.polarity = 'inverted'
    b.chain.output.trimDb = -2
    Object.assign(c, { mute: true })
    d.chain.clean.moves.push(move('m', { db: 6 }))
    const audio = new Map(
      made.tracks.map(({ id }, i) => [id, [whiteNoise(SECONDS * RATE, i + 1, 0.1)]]),
    )
    const stretch = { fromFrame: 0, toFrame: RATE }
    for (const of of ['none', 'all', 'd']) {
      const rendered = renderMix(renderPlan(made), audio, RATE, stretch, { bypass: { of } })
      // With taps, every track goes the long way.
      const mixer = new Mixer(RATE)
      for (const [id, channels] of audio) mixer.setAudio(id, channels)
      mixer.set(renderPlan(made))
      mixer.setBypass({ of }, 0)
      const [left, right] = [new Float32Array(1000), new Float32Array(1000)]
      let apart = 0
      let at = 0
      const read: ReadAudio = (channel, offset, ahead, out, n) =>
        readStretch(channel, at + ahead - offset, out, n)
      for (; at < RATE; at += 1000) {
        mixer.process(left, right, 1000, read, { track: () => {}, mix: () => {} })
        for (let i = 0; i < 1000; i++) {
          apart = Math.max(apart, Math.abs(left[i] - rendered.channels[0][at + i]))
          apart = Math.max(apart, Math.abs(right[i] - rendered.channels[1][at + i]))
        }
      }
      expect(apart).toBeLessThan(1e-6)
      expect(rms(rendered.channels[0])).toBeGreaterThan(0.02)
    }
  })

  it('keeps a bed of tracks up to date: what is rendered over it is the mix, change after change', () => {
    const made = session('a', 'b', 'c')
    const audio = new Map(
      made.tracks.map(({ id }, i) => [id, [whiteNoise(SECONDS * RATE, i + 1, 0.1)]]),
    )
    const stretch = { fromFrame: 4800, toFrame: 4800 + RATE }
    const bed = { left: new Float32Array(RATE), right: new Float32Array(RATE) }
    let tracks: ReturnType<typeof renderPlan>['tracks'] = []
    const changes: ((s: Session) => void)[] = [
      () => {},
      (s) => s.tracks[0].chain.clean.moves.push(move('m', { db: -6 })),
      (s) => Object.assign(s.tracks[1], { mute: true }),
      (s) => Object.assign(s.tracks[1], { mute: false, faderDb: -4 }),
      (s) => Object.assign(s.mix, { faderDb: 3 }),
      (s) => s.tracks.splice(2, 1),
      // The mix's own filter has to be in swing: here it is compared some time after the beginning.
      (s) => s.mix.chain.shape.moves.push(move('n', { db: 5, q: 1 })),
    ]
    for (const change of changes) {
      change(made)
      const plan = renderPlan(made)
      const over = renderOverBed(plan, audio, RATE, stretch, { ...bed, tracks })
      tracks = structuredClone(plan.tracks)
      const whole = renderMix(plan, audio, RATE, stretch)
      let apart = 0
      for (const side of [0, 1]) {
        for (let i = RATE / 2; i < RATE; i++) {
          apart = Math.max(apart, Math.abs(over.channels[side][i] - whole.channels[side][i]))
        }
      }
      expect(apart).toBeLessThan(1e-6)
      expect(rms(whole.channels[0])).toBeGreaterThan(0.02)
    }
  })

  it('gives a part of the piece as it is in the whole', () => {
    const made = session('a')
    made.tracks[0].chain.clean.moves.push(move('m', { type: 'low-cut', hz: 30 }))
    const audio = new Map<string, TrackAudio>([['a', [whiteNoise(SECONDS * RATE, 4, 0.2)]]])
    const whole = renderMix(renderPlan(made), audio, RATE, { fromFrame: 0, toFrame: 2 * RATE })
    const part = renderMix(renderPlan(made), audio, RATE, { fromFrame: RATE, toFrame: 2 * RATE })
    let worst = 0
    for (let i = 0; i < RATE; i++) {
      worst = Math.max(worst, Math.abs(part.channels[0][i] - whole.channels[0][RATE + i]))
    }
    expect(worst).toBeLessThan(1e-5)
  })

  it.each(['mixed', 'linear'] as const)(
    'plays and renders %s phase alike, and in its place',
    (phase) => {
      const made = session('a', 'b')
      made.tracks[0].chain.phase = phase
      made.tracks[0].chain.fit.moves.push(move('m', { db: 9, hz: 4000, q: 1 }))
      made.mix.chain.phase = 'linear'
      made.mix.chain.shape.moves.push(move('n', { db: -3, hz: 2500, q: 0.7 }))
      const click = new Float32Array(SECONDS * RATE)
      click[RATE] = 0.5
      const audio = new Map<string, TrackAudio>([
        ['a', [click]],
        ['b', [whiteNoise(SECONDS * RATE, 4, 0.1)]],
      ])
      const stretch = { fromFrame: 0, toFrame: SECONDS * RATE }
      const rendered = renderMix(renderPlan(made), audio, RATE, stretch)
      const played = play(made, audio, SECONDS)
      let worst = 0
      for (let i = RATE / 10; i + 128 < SECONDS * RATE; i++) {
        worst = Math.max(worst, Math.abs(played[0][i] - rendered.channels[0][i]))
      }
      expect(worst).toBeLessThan(3e-6)
      const alone = renderTrack(made.tracks[0].chain, [click], 0, RATE, stretch).channels[0]
      const peak = alone.reduce((best, v, i) => (Math.abs(v) > Math.abs(alone[best]) ? i : best), 0)
      expect(peak).toBe(RATE)
    },
  )

  it('renders a track through its chain only, at its place', () => {
    const chain = emptyChain()
    chain.output.trimDb = -6
    chain.output.polarity = 'inverted'
    const audio = [sine(300, 1, RATE, 0.3)]
    const clip = renderTrack(chain, audio, 100, RATE, { fromFrame: 0, toFrame: RATE })
    expect(clip.channels[0][99]).toBeCloseTo(0, 12)
    expect(clip.channels[0][100 + 777]).toBeCloseTo(-dbToAmplitude(-6) * audio[0][777], 6)
  })
})

describe('changes while playing', () => {
  const tone = new Map<string, TrackAudio>([
    ['a', [sine(1000, SECONDS, RATE, 0.3)]],
    ['b', [sine(1000, SECONDS, RATE, 0.3)]],
  ])
  const steady = (signal: Float32Array) => signal.subarray(RATE / 4, SECONDS * RATE - RATE / 8)
  const at = (block: number, seconds: number) => block === Math.round((seconds * RATE) / 128)

  it.each<[string, (made: Session) => void]>([
    ['mute', (s) => Object.assign(s.tracks[0], { mute: true })],
    ['solo', (s) => Object.assign(s.tracks[1], { solo: true })],
    ['lift', (s) => Object.assign(s.tracks[0], { lift: true })],
    ['a fader from 0 to -40 dB', (s) => Object.assign(s.tracks[0], { faderDb: -40 })],
    ['pan', (s) => Object.assign(s.tracks[0], { pan: 1 })],
    ['a new bell of +12 dB', (s) => s.tracks[0].chain.fit.moves.push(move('m', { db: 12 }))],
    [
      'polarity with a trim',
      (s) => Object.assign(s.tracks[0].chain.output, { polarity: 'inverted', trimDb: -6 }),
    ],
  ])('%s makes no click', (_, change) => {
    const made = session('a', 'b')
    const [left] = play(made, tone, SECONDS, (__, mixer, block) => {
      if (!at(block, 1)) return
      change(made)
      mixer.set(listeningPlan(made))
    })
    expect(clickRatio(steady(left), RATE)).toBeLessThan(4)
  })

  it('mono, bypass, seek, pause and the loop’s end make no click', () => {
    const made = session('a', 'b')
    made.tracks[0].pan = -1
    made.tracks[0].chain.fit.moves.push(move('m', { db: 12 }))
    const [left] = play(made, tone, SECONDS, (transport, mixer, block) => {
      if (block === 0) transport.setLoop({ fromFrame: 1000, toFrame: 20017 })
      if (at(block, 0.9)) mixer.setMono(true)
      if (at(block, 1.1)) mixer.setBypass({ of: 'all' }, 3)
      if (at(block, 1.3)) transport.seek(5003)
      if (at(block, 1.5)) transport.pause()
      if (at(block, 1.6)) transport.play()
    })
    expect(clickRatio(steady(left), RATE)).toBeLessThan(4)
  })

  it('another phase mode goes on where it was, and a plan that takes it back does not fall silent', () => {
    const made = session('a')
    made.tracks[0].chain.fit.moves.push(move('m', { db: 12 }))
    const source = whiteNoise(SECONDS * RATE, 6, 0.2)
    const plan = (phase: 'minimum' | 'linear') => {
      made.tracks[0].chain.phase = phase
      return withKernels(listeningPlan(made), (c) => chainKernels(c, RATE))
    }
    const [left] = play(made, new Map([['a', [source]]]), SECONDS, (transport, mixer, block) => {
      if (at(block, 0.5)) transport.setPlan(plan('linear'))
      if (at(block, 0.8)) mixer.setBypass({ of: 'a' }, 0)
      if (at(block, 1.2)) transport.setPlan(plan('minimum'))
      // Taken back in the middle of the fade.
      if (at(block - 1, 1.2)) transport.setPlan(plan('linear'))
    })
    for (const from of [0.9, 1.5]) {
      for (let i = Math.round(from * RATE); i < (from + 0.1) * RATE; i++) {
        expect(Math.abs(left[i] - Math.SQRT1_2 * source[i])).toBeLessThan(1e-4)
      }
    }
  })

  it('another phase mode fades out and in again without a click, and bypass stays in time', () => {
    const made = session('a')
    made.tracks[0].chain.fit.moves.push(move('m', { db: 12 }))
    const [left] = play(made, tone, SECONDS, (transport, mixer, block) => {
      if (at(block, 0.8)) {
        made.tracks[0].chain.phase = 'linear'
        transport.setPlan(withKernels(listeningPlan(made), (c) => chainKernels(c, RATE)))
      }
      if (at(block, 1.2)) mixer.setBypass({ of: 'a' }, 0)
    })
    expect(clickRatio(steady(left), RATE)).toBeLessThan(4)
    const source = tone.get('a')?.[0] ?? left
    for (let i = Math.round(1.5 * RATE); i < 1.6 * RATE; i++) {
      expect(Math.abs(left[i] - Math.SQRT1_2 * source[i])).toBeLessThan(1e-4)
    }
  })

  it('loops exactly over the passage', () => {
    const made = session('a')
    const ramp = Float32Array.from({ length: SECONDS * RATE }, (_, i) => i / (SECONDS * RATE))
    const [left] = play(made, new Map([['a', [ramp]]]), 1, (transport, _, block) => {
      if (block === 0) transport.setLoop({ fromFrame: 9600, toFrame: 19200 })
      if (block === 1) transport.seek(9600)
    })
    const value = (i: number) => left[i] / Math.SQRT1_2
    const early = 4000
    expect(value(early + 9600)).toBeCloseTo(value(early), 6)
  })
})
