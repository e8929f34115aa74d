import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeClip } from '../audio'
import { type EqBand, magnitudeDb } from '../filters'
import { bell, filtered } from '../testing/filtered'
import { whiteNoise } from '../testing/signals'
import { drumKit, ensemblePad, glidingVoice } from '../testing/sounds'
import {
  bandsOf,
  PLAN_GROUPS,
  type PlanGroup,
  planMoves,
  surveyClips,
  surveyFindings,
  USUAL_GROUPS,
} from '.'
import { isTooMuch } from './masking/band-places'

const RATE = 48000
const SECONDS = 4
const HERTZ = Float64Array.from({ length: 500 }, (_, i) => 20 * 2 ** (i / 50))
const curveOf = (bands: readonly EqBand[]) => magnitudeDb(bands, HERTZ, RATE)

/** A voice under a noise that is strong in its range, a pad and a kit. */
function crowded() {
  const cover = filtered(whiteNoise(SECONDS * RATE, 14, 0.05), bell(1500, 12, 1))
  const sounds = [
    glidingVoice(13, SECONDS, 150, 300),
    cover,
    ensemblePad(15, SECONDS),
    drumKit(5, SECONDS),
  ]
  return surveyClips(
    sounds.map((signal, i) => ({
      id: `${i}`,
      clip: makeClip(RATE, [signal]),
      gainDb: 0,
      isLead: i === 0,
    })),
  )
}

describe('a plan', () => {
  const input = crowded()
  const found = surveyFindings(input)
  const told: number[] = []
  const plan = (groups: readonly PlanGroup[]) =>
    planMoves(input, found, groups, (share) => told.push(share))
  const { steps, heardBefore } = plan(PLAN_GROUPS)
  const room = steps.filter((s) => s.group === 'room' || s.group === 'boosts')
  const bandsOn = (node: string) =>
    bandsOf(
      room.flatMap((s) => s.moves),
      node,
    )

  it('keeps every track within its loudness, cuts no lead, and wins with each step that makes room', () => {
    expect(room.length).toBeGreaterThan(1)
    expect(bandsOn('0').every((b) => b.db > 0)).toBe(true)
    expect([1, 2, 3].flatMap((t) => bandsOn(`${t}`)).every((b) => b.db < 0)).toBe(true)
    let heard = heardBefore.get('0') ?? 0
    for (const step of steps) {
      for (const level of step.levelsLu) expect(Math.abs(level)).toBeLessThanOrEqual(1.5)
      const now = step.heard.get('0') ?? 0
      if (room.includes(step)) expect(now).toBeGreaterThan(heard - 1e-6)
      heard = now
    }
  })

  it('goes by the order of its groups, and makes the moves of findings as they are', () => {
    const order = steps.map((s) => PLAN_GROUPS.indexOf(s.group))
    expect(order).toEqual([...order].sort((a, b) => a - b))
    for (const { findingKey, group, moves } of steps) {
      if (group === 'boosts') continue
      expect(found.find((f) => f.key === findingKey)?.moves).toBe(moves)
    }
  })

  it('raises leads only when asked to, and leaves out any group', () => {
    expect(plan(USUAL_GROUPS).steps.map((s) => s.group)).not.toContain('boosts')
    expect(steps.map((s) => s.group)).toContain('boosts')
    expect(plan(['boosts']).steps.every((s) => s.group === 'boosts')).toBe(true)
    expect(plan([]).steps).toEqual([])
  })

  it('gives no track a curve that is deep and wide, with all of its moves', () => {
    for (const node of ['0', '1', '2', '3']) {
      const own = bandsOn(node)
      expect(own.length).toBeLessThanOrEqual(2)
      const curve = curveOf(own)
      expect(Math.min(...curve)).toBeGreaterThanOrEqual(-6.2)
      expect(Math.max(...curve)).toBeLessThanOrEqual(3.2)
      expect(curve.filter((db) => db < -3).length / 50).toBeLessThanOrEqual(2.2)
    }
  })

  it('tells how far it is', () => {
    told.length = 0
    plan(PLAN_GROUPS)
    expect(told.length).toBeGreaterThan(PLAN_GROUPS.length - 1)
    expect(told[0]).toBe(0)
    expect(told.at(-1)).toBe(1)
    told.slice(1).forEach((share, i) => {
      expect(share).toBeGreaterThanOrEqual(told[i])
    })
  })

  it('is given up where its progress is', () => {
    expect(() =>
      planMoves(input, [], USUAL_GROUPS, () => {
        throw new Error('enough')
      }),
    ).toThrow('enough')
  })
})

describe('what is too much for a track', () => {
  const anyBell = fc.record({
    hz: fc.double({ min: 80, max: 8000, noNaN: true }),
    db: fc.constantFrom(-6, -4.5, -3, -1.5, 1.5, 3),
    q: fc.constantFrom(0.4, 0.5, 0.7, 1, 1.4),
  })

  it('is a second move at one place, a wide deep cut, and all that lies deeper than 6 dB', () => {
    expect(isTooMuch([], bell(1000, -6, 1), RATE)).toBe(false)
    expect(isTooMuch([], bell(1000, -4.5, 0.7), RATE)).toBe(false)
    expect(isTooMuch([], bell(1000, -6, 0.7), RATE)).toBe(true)
    expect(isTooMuch([], bell(1000, -3, 0.4), RATE)).toBe(false)
    expect(isTooMuch([], bell(1000, -4.5, 0.5), RATE)).toBe(true)
    expect(isTooMuch([], bell(1000, -7, 1.4), RATE)).toBe(true)
    expect(isTooMuch([bell(1000, -1.5, 1)], bell(1200, -1.5, 1), RATE)).toBe(true)
    expect(isTooMuch([bell(1000, -1.5, 1)], bell(4000, -1.5, 1), RATE)).toBe(false)
    // Neither is too much by itself.
    expect(isTooMuch([bell(1000, -6, 1)], bell(2000, -3, 0.4), RATE)).toBe(true)
    expect(isTooMuch([bell(1000, 3, 0.5)], bell(2000, 3, 0.5), RATE)).toBe(true)
  })

  it('never lets two through that make a curve beyond what one may', () => {
    fc.assert(
      fc.property(anyBell, anyBell, (a, b) => {
        const bands = [bell(a.hz, a.db, a.q), bell(b.hz, b.db, b.q)]
        fc.pre(!isTooMuch(bands.slice(0, 1), bands[1], RATE))
        const curve = curveOf(bands)
        expect(Math.min(...curve)).toBeGreaterThanOrEqual(-6.3)
        expect(Math.max(...curve)).toBeLessThanOrEqual(3.3)
      }),
      { numRuns: 200 },
    )
  })
})
