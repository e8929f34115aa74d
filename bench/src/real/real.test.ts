import { makeClip, seededRandom } from '@sober-prism/core/audio'
import { longTermPower } from '@sober-prism/core/spectrum'
import { RATE_HZ } from '@sober-prism/demo'
import fc from 'fast-check'
import { parseMidi } from 'midi-file'
import { describe, expect, it } from 'vitest'
import { rms, whiteNoise } from '../../../core/src/testing/signals'
import { coveredShare, excessDb, THIRDS } from './fault-measures'
import { plantFaults } from './faults'
import type { Part } from './parts'
import { midiOf, type Stroke } from './players'
import { plantRing } from './ringing-songs'
import { beat, phrase, strokesOf } from './ringing-takes'
import { bassLine, broken, comped, drumBeat, held, line, makeSong, phraseStarts } from './song'
import { isFaultByMeasure } from './unplanted'

const SECONDS = 4
const songs = fc.integer({ min: 1, max: 1e6 }).map((seed) => {
  const random = seededRandom(seed)
  return { random, song: makeSong(random, SECONDS) }
})

describe('a song', () => {
  it('keeps to its scale, its range and its length, whoever plays', () => {
    fc.assert(
      fc.property(songs, ({ song, random }) => {
        for (const style of [line, held, comped, broken]) {
          for (const { key, seconds, length, velocity } of style(song, random, 48, 76)) {
            expect(song.scale).toContain(key % 12)
            expect(key).toBeGreaterThanOrEqual(48)
            expect(key).toBeLessThanOrEqual(76)
            expect(seconds).toBeGreaterThanOrEqual(0)
            expect(seconds).toBeLessThan(song.chords.length * 4 * song.beat + 0.1)
            expect(length).toBeGreaterThan(0)
            expect(velocity).toBeGreaterThanOrEqual(30)
            expect(velocity).toBeLessThanOrEqual(120)
          }
        }
      }),
      { numRuns: 40 },
    )
  })

  it('has chords of three different tones of the scale, and as many bars as it needs', () => {
    fc.assert(
      fc.property(songs, ({ song }) => {
        expect(song.chords.length * 4 * song.beat).toBeGreaterThanOrEqual(SECONDS)
        for (const chord of song.chords) {
          expect(new Set(chord).size).toBe(3)
          for (const pitch of chord) expect(song.scale).toContain(pitch)
        }
      }),
    )
  })

  it('has a bass within an octave, on tones of the chord', () => {
    fc.assert(
      fc.property(songs, ({ song, random }) => {
        const tones = new Set(song.chords.flat())
        for (const { key } of bassLine(song, random, 28)) {
          expect(key).toBeGreaterThanOrEqual(28)
          expect(key).toBeLessThan(40)
          expect(tones).toContain(key % 12)
        }
      }),
    )
  })

  it('beats the snare on two and four, and a kick on one', () => {
    fc.assert(
      fc.property(songs, ({ song, random }) => {
        const { kick, snare } = drumBeat(song, random)
        const beats = (strokes: readonly Stroke[]) =>
          strokes.map((s) => Math.round((4 * (s.seconds - 0.05)) / song.beat) % 16)
        expect(new Set(beats(snare))).toEqual(new Set([4, 12]))
        expect(beats(kick).filter((b) => b === 0)).toHaveLength(song.chords.length)
      }),
    )
  })

  it('is the same for the same seed', () => {
    const made = () => {
      const random = seededRandom(77)
      const song = makeSong(random, SECONDS)
      return [song, line(song, random, 50, 70), phraseStarts(song)]
    }
    expect(made()).toEqual(made())
  })
})

describe('what players are given', () => {
  it('is a MIDI file in which every tone that begins ends, in its time', () => {
    const stroke = fc.record({
      seconds: fc.double({ min: 0, max: 20, noNaN: true }),
      length: fc.double({ min: 0.01, max: 4, noNaN: true }),
      key: fc.integer({ min: 20, max: 100 }),
      velocity: fc.integer({ min: 1, max: 127 }),
    })
    fc.assert(
      fc.property(fc.array(stroke, { maxLength: 40 }), fc.boolean(), (strokes, kit) => {
        const bytes = midiOf({ font: 'x', program: 41, kit }, strokes)
        const { header, tracks } = parseMidi(Uint8Array.from(bytes))
        expect(tracks).toHaveLength(1)
        let tick = 0
        const begun: [number, number][] = []
        let ended = 0
        for (const event of tracks[0]) {
          tick += event.deltaTime
          if (event.type === 'noteOn') begun.push([event.noteNumber, tick])
          if (event.type === 'noteOff') ended++
          if ('channel' in event) expect(event.channel).toBe(kit ? 9 : 0)
          if (event.type === 'programChange') expect(event.programNumber).toBe(41)
        }
        expect([begun.length, ended]).toEqual([strokes.length, strokes.length])
        // Half a second a beat.
        const perSecond = 2 * (header.ticksPerBeat ?? 0)
        const wanted = strokes.map(({ key, seconds }) => [key, Math.round(seconds * perSecond)])
        const inOrder = (a: number[], b: number[]) => a[1] - b[1] || a[0] - b[0]
        expect(begun.sort(inOrder)).toEqual(wanted.sort(inOrder))
      }),
      { numRuns: 60 },
    )
  })
})

describe('planted faults', () => {
  const noise = (seed: number, channels: number) =>
    makeClip(
      RATE_HZ,
      Array.from({ length: channels }, (_, c) => whiteNoise(SECONDS * RATE_HZ, seed + c, 0.05)),
    )
  const part = (name: string, role: Part['role'], channels = 1): Part => ({
    name,
    role,
    pan: 0,
    isLead: name === 'Voice',
    clip: noise(name.length * 7, channels),
  })
  const clean = [
    part('Drums', 'drums', 2),
    part('Bass', 'bass'),
    part('Voice', 'voice'),
    part('Piano', 'keys', 2),
    part('Guitar', 'guitar'),
    part('Strings', 'strings', 2),
  ]
  const faders = [-3, -4, 0, -8, -7, -8]
  const usual = [longTermPower(noise(3, 1), THIRDS)]
  const planted = (seed: number) => plantFaults(clean, faders, usual, seededRandom(seed))
  const levelDb = (p: Part, hz: number) =>
    10 * Math.log10(longTermPower(p.clip, [{ hz, fromHz: 0.9 * hz, toHz: 1.1 * hz }])[0])

  it('are told with tracks and ranges that there are', () => {
    for (const seed of [1, 2, 3]) {
      const { parts, table } = planted(seed)
      const names = parts.map((p) => p.name)
      for (const { kind, tracks, fromHz, toHz } of table) {
        for (const name of tracks) if (name !== 'mix') expect(names, kind).toContain(name)
        expect(fromHz).toBeGreaterThan(0)
        expect(toHz).toBeGreaterThan(fromHz)
      }
      const kinds = table.map((f) => f.kind)
      for (const kind of ['masking', 'rumble', 'hum', 'alignment', 'wide-low-end']) {
        expect(kinds).toContain(kind)
      }
      expect(kinds.includes('pile-up') && kinds.includes('balance')).toBe(false)
    }
  })

  it('count a bed as covering by the cells of the lead that it takes', () => {
    const [lead, bed] = [noise(11, 1), noise(12, 1)].map((c) => c.channels[0])
    const share = (gainDb: number) =>
      coveredShare({ sound: lead, gainDb: 0 }, { sound: bed, gainDb }, [1000, 3000])
    expect(share(-30)).toBeLessThan(0.05)
    expect(share(20)).toBeGreaterThan(0.9)
    // As loud as the lead, less than 3 dB under it in most cells.
    expect(share(0)).toBeGreaterThan(0.5)
    expect(share(0)).toBeLessThan(0.9)
  })

  it('count low mids as piled up by what other mixes have there, at any level', () => {
    const [powers] = usual
    const raised = powers.map((v, i) =>
      Math.abs(Math.log2(THIRDS[i].hz / 315)) <= 0.5 ? 100 * v * 10 ** 0.5 : 100 * v,
    )
    const near = THIRDS.filter((b) => Math.abs(Math.log2(b.hz / 315)) <= 0.5).length
    expect(
      excessDb(
        powers.map((v) => 7 * v),
        usual,
        315,
      ),
    ).toBeCloseTo(0, 6)
    expect(excessDb(raised, usual, 315)).toBeCloseTo(5 * (1 - near / THIRDS.length), 6)
    expect(excessDb(raised, usual, 2500)).toBeLessThan(0)
  })

  it('that nobody planted are told from what is none: by the cells of a lead, by what other mixes have', () => {
    const track = (seed: number, gainDb: number, isLead: boolean) => {
      const { sampleRateHz, channels } = noise(seed, 1)
      // Both sides the same: as loud in the mean of them as a mono one.
      const clip = makeClip(sampleRateHz, [channels[0], channels[0]])
      return { id: '', name: '', gainDb, isLead, clip }
    }
    const place = { hz: 315, fromHz: 1000, toHz: 3000 }
    const isFault = (kind: 'masking' | 'pile-up' | 'rumble', gainDb: number, isLead = true) =>
      isFaultByMeasure(
        { ...place, kind, tracks: ['1', '0'] },
        { tracks: [track(11, 0, isLead), track(12, gainDb, false)] },
        usual,
      )
    expect(isFault('masking', 0)).toBe(true)
    expect(isFault('masking', -15)).toBe(false)
    expect(isFault('masking', 0, false)).toBe(false)
    expect(isFault('rumble', 20)).toBe(false)
    expect(isFault('pile-up', 0)).toBe(false)
    const raised = usual.map((powers) =>
      powers.map((v, i) => (Math.abs(Math.log2(THIRDS[i].hz / 315)) <= 0.5 ? 0.1 * v : v)),
    )
    const mix = { tracks: [track(11, 0, true)] }
    expect(isFaultByMeasure({ ...place, kind: 'pile-up', tracks: ['0'] }, mix, raised)).toBe(true)
  })

  it('leave the clean session as it was', () => {
    const before = clean.map((p) => rms(p.clip.channels[0]))
    planted(4)
    expect(clean.map((p) => rms(p.clip.channels[0]))).toEqual(before)
  })

  it('are where the table says: a bed raised, a hum on the mains, a second microphone', () => {
    const { parts, table } = planted(5)
    const of = (kind: string) => {
      const fault = table.find((f) => f.kind === kind)
      if (!fault) throw new Error(`No ${kind} was planted.`)
      const index = parts.findIndex((p) => p.name === fault.tracks[0])
      return { fault, made: parts[index], was: clean[index] }
    }
    const cover = of('masking')
    const hz = cover.fault.toHz / 1.55
    expect(levelDb(cover.made, hz) - levelDb(cover.was, hz)).toBeGreaterThan(6)
    expect(cover.fault.tracks[1]).toBe('Voice')
    const hum = of('hum')
    const mains = hum.fault.fromHz / 0.9
    expect([50, 60]).toContain(Math.round(mains))
    const raised = (at: number) => levelDb(hum.made, at) - levelDb(hum.was, at)
    expect(raised(mains)).toBeGreaterThan(raised(1.5 * mains) + 0.5)
    const rumble = of('rumble')
    expect(levelDb(rumble.made, 35) - levelDb(rumble.was, 35)).toBeGreaterThan(8)
    const second = parts[parts.length - 1]
    expect(second.name).toBe('Bass amplifier')
    expect(second.clip.frames).toBe(clean[1].clip.frames)
    const wide = of('wide-low-end').made.clip.channels
    const lows = wide[0].map((v, i) => v + wide[1][i])
    expect(rms(lows)).toBeGreaterThan(0)
  })
})

describe('single recordings', () => {
  const seeds = fc.integer({ min: 1, max: 1e6 })

  it('keep to what an instrument can play, from the beginning to the end', () => {
    fc.assert(
      fc.property(seeds, fc.boolean(), (seed, isPolyphonic) => {
        const strokes = phrase({ low: 48, high: 72, isPolyphonic }, seededRandom(seed))
        expect(strokes.length).toBeGreaterThan(3)
        for (const { key, seconds, length, velocity } of strokes) {
          expect(key).toBeGreaterThanOrEqual(48)
          expect(key).toBeLessThanOrEqual(72)
          expect(seconds).toBeGreaterThan(0)
          expect(seconds).toBeLessThan(22)
          expect(length).toBeGreaterThan(0)
          expect(velocity).toBeGreaterThanOrEqual(40)
          expect(velocity).toBeLessThanOrEqual(120)
        }
      }),
      { numRuns: 60 },
    )
  })

  it('of what is struck use the keys of one thing, and of a kit many', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const keys = [45, 47, 48]
        for (const { key } of strokesOf(keys, seededRandom(seed))) expect(keys).toContain(key)
        const kit = new Set(beat(seededRandom(seed)).map((s) => s.key))
        expect(kit.size).toBeGreaterThan(3)
      }),
      { numRuns: 60 },
    )
  })

  it('ring where a mode or a bell was put, as high as its response says', () => {
    const noise = makeClip(RATE_HZ, [whiteNoise(4 * RATE_HZ, 7, 0.1)])
    for (const modesShare of [0, 1]) {
      const planting = { lowestHz: 700, highestHz: 3000, modesShare }
      const found = plantRing(noise, seededRandom(3), planting)
      if (!found) throw new Error('No ring was heard in noise.')
      const { ring, clip } = found
      expect(ring.kind).toBe(modesShare === 1 ? 'mode' : 'bell')
      const [before, after] = [noise, clip].map((c) =>
        longTermPower(c, [{ hz: ring.hz, fromHz: ring.hz * 0.995, toHz: ring.hz * 1.005 }]),
      )
      const risen = 10 * Math.log10(after[0] / before[0])
      expect(Math.abs(risen - ring.db)).toBeLessThan(1)
    }
  })
})
