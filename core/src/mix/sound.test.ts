import { describe, expect, it } from 'vitest'
import { dbToAmplitude } from '../audio'
import { applyEdits } from '../session'
import { add, addEqualiser, apart, RATE, recordingsOf, sessionOf } from '../testing/sessions'
import { rms, whiteNoise } from '../testing/signals'
import { MIX, newFollowBand, newTreatment } from '../treatments'
import { designNow, pathPlan, renderMix, renderPlan, withoutSilent } from './index'
import { collectSound, openSound } from './open-sound'
import { recordingsIn, soundOf, type Tap, untreated } from './sound'

const STRETCH = { fromFrame: 4000, toFrame: 4000 + RATE }
const sounds = [1, 2, 3].map((seed) => [whiteNoise(2 * RATE, seed, 0.1)])
const recordings = recordingsOf(...sounds)
const TRIM_DB = -3
const follows = newTreatment('follow', 'key', 'fit', {
  ...newTreatment('follow', 'key', 'fit').params,
  bands: [
    newFollowBand('k', { hz: 1000, rangeDb: -9, threshold: { against: 'absolute', db: -60 } }),
  ],
})
/** `a` (which begins late) and `b` in a group with a chain, `c` beside it; `c` listens to `a`. */
const late = sessionOf(['a', 'b', 'c'])
late.tracks[0] = { ...late.tracks[0], offsetFrames: 700 }
const session = applyEdits(late, [
  { kind: 'add-group', id: 'g', name: 'G', members: ['a', 'b'] },
  { kind: 'set-node', node: 'g', change: { faderDb: -4, pan: 0.3 } },
  addEqualiser('g', 'e', [{ db: 5, hz: 400 }], 'linear'),
  { kind: 'set-node', node: 'a', change: { trimDb: TRIM_DB, pan: -0.4 } },
  addEqualiser('a', 'one', [{ db: 6, hz: 900 }], 'linear'),
  addEqualiser('a', 'two', [{ db: -8, hz: 3000 }]),
  { kind: 'set-output', node: 'a', output: 'g' },
  add('c', { ...follows, key: { node: 'a', tap: 'after-fader', as: 'mono' } }),
])
const plain = sessionOf(['a', 'b', 'c'])

async function heard(of: typeof session, node: string, tap: Tap, stretch = STRETCH) {
  const sound = soundOf(of, node, tap)
  if (!sound) throw new Error(`There is no ${node}.`)
  // What a worker gets has been through a message.
  const sent = JSON.parse(JSON.stringify(sound))
  expect(sent).toEqual(sound)
  const channels = await collectSound(openSound(sent, recordings, stretch), stretch)
  expect(channels).toHaveLength(sound.channels)
  return channels
}

describe('a sound', () => {
  it('as recorded is the recording at its place, and trimmed times its trim', async () => {
    const [recorded] = await heard(session, 'a', 'recorded')
    expect(apart(recorded, sounds[0][0].subarray(4000 - 700))).toBe(0)
    const [trimmed] = await heard(session, 'a', 'trimmed')
    const gain = dbToAmplitude(TRIM_DB)
    const wanted = recorded.map((v) => gain * v)
    expect(apart(trimmed, wanted)).toBeLessThan(1e-7)
  })

  it('behind a treatment is what the chain makes when it ends there', async () => {
    const shorter = applyEdits(session, [{ kind: 'remove-treatment', node: 'a', treatment: 'two' }])
    const [there] = await heard(session, 'a', { behind: 'one' })
    const [ended] = await heard(shorter, 'a', 'chain')
    expect(apart(there, ended)).toBe(0)
    const [whole] = await heard(session, 'a', 'chain')
    expect(apart(there, whole)).toBeGreaterThan(0.01)
  })

  it('as placed is what one measures: through its groups, every fader at 0 dB', async () => {
    const plan = renderPlan(session, designNow(RATE))
    for (const node of ['a', 'c']) {
      const placed = await heard(session, node, 'placed')
      const alone = withoutSilent(pathPlan(plan, node))
      const { channels } = renderMix(alone, recordings, RATE, STRETCH)
      for (const c of [0, 1]) expect(apart(placed[c], channels[c])).toBeLessThan(1e-6)
      expect(rms(placed[0])).toBeGreaterThan(0.01)
    }
  })

  it('placed by its own chain alone equals the mixer, and comes in one channel from the middle', async () => {
    const turned = applyEdits(plain, [
      { kind: 'set-node', node: 'b', change: { pan: 0.6 } },
      addEqualiser('a', 'one', [{ db: 6, hz: 900 }]),
    ])
    const plan = renderPlan(turned, designNow(RATE))
    const mixed = (id: string) =>
      renderMix(withoutSilent(pathPlan(plan, id)), recordings, RATE, STRETCH).channels
    const [left, right] = await heard(turned, 'b', 'placed')
    expect(apart(left, mixed('b')[0])).toBeLessThan(1e-6)
    expect(apart(right, mixed('b')[1])).toBeLessThan(1e-6)
    const middle = await heard(turned, 'a', 'placed')
    expect(middle).toHaveLength(1)
    const lower = middle[0].map((v) => v * Math.SQRT1_2)
    expect(apart(lower, mixed('a')[0])).toBeLessThan(1e-6)
  })

  it('behind faders adds up to what goes into the mix’s chain', async () => {
    const parts = [await heard(session, 'g', 'fader'), await heard(session, 'c', 'fader')]
    const mix = await heard(session, MIX, 'trimmed')
    for (const side of [0, 1]) {
      const sum = parts[0][side].map((v, i) => v + parts[1][side][i])
      expect(apart(sum, mix[side])).toBeLessThan(1e-6)
    }
  })

  it('of a track that listens to others keeps its channels and hears them', async () => {
    const [alone] = await heard(session, 'c', 'recorded')
    const own = await heard(session, 'c', 'chain')
    expect(own).toHaveLength(1)
    expect(apart(own[0], alone)).toBeGreaterThan(1e-4)
    const sound = soundOf(session, 'c', 'chain')
    expect(sound && recordingsIn(sound).size).toBe(2)
  })

  it('of a bus is taken before its chain, in it and behind it', async () => {
    const [before] = await heard(session, 'g', 'trimmed')
    const [behind] = await heard(session, 'g', { behind: 'e' })
    const [chain] = await heard(session, 'g', 'chain')
    expect(apart(behind, chain)).toBe(0)
    expect(apart(before, chain)).toBeGreaterThan(0.01)
  })

  it('that nothing is done to names its recording and gain', () => {
    const recorded = soundOf(session, 'a', 'trimmed')
    expect(recorded && untreated(recorded)).toEqual({
      source: session.tracks[0].audio.hash,
      offsetFrames: 700,
      gain: dbToAmplitude(TRIM_DB),
    })
    const treated = soundOf(session, 'a', 'chain')
    expect(treated && untreated(treated)).toBeNull()
    expect(soundOf(session, 'nobody', 'chain')).toBeNull()
  })
})
