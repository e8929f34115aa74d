import { describe, expect, it } from 'vitest'
import { type Clip, makeClip, seededRandom } from '../audio'
import { analogueDb, designBand, type EqBand, firMagnitudeDb } from '../filters'
import { parseCurveCsv, parseProfile, writeCurveCsv, writeProfile } from '../session'
import { longTermLevels } from '../spectrum'
import { sine, whiteNoise } from '../testing/signals'
import {
  correctionOf,
  DecayMeter,
  fitBands,
  INVENTED_RESPONSES,
  loudnessChange,
  matchByBands,
  measureProfile,
  mergeProfiles,
  noiseOf,
  notMatched,
  type Profile,
  ProfileMeter,
  pairOf,
  pairOfResponses,
  responseWays,
  THIRDS,
  TWELFTHS,
  USUAL_CORRECTION,
  widthOf,
  zeroOf,
} from './index'
import { matchFir } from './match-fir'

const RATE = 24_000
const SECONDS = 9

/** Syllables of filtered noise over two octaves of notes: something like a voice in its long-term spectrum. */
function babble(seed: number): Float32Array {
  const random = seededRandom(seed)
  const noise = whiteNoise(SECONDS * RATE, seed, 0.3)
  const shaped = filtered(noise, [
    { ...bell, type: 'low-shelf', hz: 200, db: -10, q: 0.7 },
    { ...bell, hz: 500, db: 12, q: 0.8 },
    { ...bell, type: 'high-shelf', hz: 2500, db: -14, q: 0.7 },
  ])
  let level = 0
  return shaped.map((v, i) => {
    if (i % 2400 === 0) level = random() < 0.25 ? 0.02 : 0.4 + 0.6 * random()
    return v * level
  })
}

const bell: EqBand = { type: 'bell', hz: 1000, db: 0, q: 1, slopeDbPerOct: 12, channel: 'stereo' }

const power = (signal: Float32Array) => signal.reduce((sum, v) => sum + v * v, 0) / signal.length

function filtered(signal: Float32Array, bands: readonly EqBand[]): Float32Array {
  const out = Float64Array.from(signal)
  for (const { b0, b1, b2, a1, a2 } of bands.flatMap((b) => designBand(b, RATE))) {
    let [z1, z2] = [0, 0]
    for (let i = 0; i < out.length; i++) {
      const x = out[i]
      const y = b0 * x + z1
      z1 = b1 * x - a1 * y + z2
      z2 = b2 * x - a2 * y
      out[i] = y
    }
  }
  return Float32Array.from(out)
}

const mono = (signal: Float32Array): Clip => makeClip(RATE, [signal])
const profile = (signal: Float32Array) => measureProfile(mono(signal), { name: 'x' })

/** Weighted rms of the difference of two curves, the constant taken out. */
function rmsApart(a: readonly number[], b: readonly number[], weight: readonly number[]): number {
  const total = weight.reduce((s, w) => s + w, 0)
  const mean = a.reduce((s, v, i) => s + weight[i] * (v - b[i]), 0) / total
  const square = a.reduce((s, v, i) => s + weight[i] * (v - b[i] - mean) ** 2, 0)
  return Math.sqrt(square / total)
}

describe('a profile', () => {
  it('has the levels of the long-term spectrum, per twelfth and third', () => {
    const clip = mono(babble(1))
    const { twelfths, thirds } = measureProfile(clip, { name: 'x' })
    const wanted = longTermLevels(clip, TWELFTHS)
    const wantedThirds = longTermLevels(clip, THIRDS)
    for (const [i, { toHz }] of TWELFTHS.entries()) {
      if (toHz < RATE / 2) expect(twelfths.meanDb[i]).toBeCloseTo(wanted[i], 1)
    }
    for (const [i, { toHz }] of THIRDS.entries()) {
      if (toHz < RATE / 2) expect(thirds.meanDb[i]).toBeCloseTo(wantedThirds[i], 1)
    }
  })

  it('is the same in pieces as in one', () => {
    const signal = babble(2)
    const meter = new ProfileMeter(RATE, 1)
    for (let at = 0; at < signal.length; at += 1777) meter.add([signal.subarray(at, at + 1777)])
    expect(writeProfile(meter.read({ name: 'x' }))).toBe(writeProfile(profile(signal)))
  })

  it('knows the crest factor of a sine and of a beat of two', () => {
    const at = (i: number) => THIRDS.findIndex(({ hz }) => hz > i * 0.99)
    const one = profile(sine(993, SECONDS, RATE, 0.5))
    // A sine's peak stands 3.01 dB over its mean; two of the same height, 6.02 dB.
    expect(one.thirds.crestDb[at(1000)]).toBeCloseTo(3.01, 1)
    expect(one.loudness.crestDb).toBeCloseTo(3.01, 1)
    const second = sine(1100, SECONDS, RATE, 0.5)
    const two = profile(sine(993, SECONDS, RATE, 0.5).map((v, i) => 0.5 * (v + second[i])))
    expect(two.thirds.crestDb[at(1000)]).toBeCloseTo(6.02, 0)
  })

  it('knows width and correlation, band by band', () => {
    const [a, b] = [whiteNoise(SECONDS * RATE, 3, 0.2), whiteNoise(SECONDS * RATE, 4, 0.2)]
    const read = (left: Float32Array, right: Float32Array) =>
      measureProfile(makeClip(RATE, [left, right]), { name: 'x' })
    const [alike, apart] = [read(a, a), read(a, b)]
    expect(widthOf(alike)).toBe(-60)
    expect(alike.thirds.correlation[20]).toBeCloseTo(1, 5)
    // Independent sides: as much in the sides as in the middle.
    expect(widthOf(apart)).toBeCloseTo(0, 0)
    expect(Math.abs(apart.thirds.correlation[25])).toBeLessThan(0.1)
    const turned = read(
      a,
      a.map((v) => -v),
    )
    expect(turned.thirds.correlation[20]).toBeCloseTo(-1, 5)
  })

  it('hears the noise of the pauses', () => {
    const hiss = whiteNoise(SECONDS * RATE, 5, 0.002)
    const words = babble(6).map((v, i) => (i % (3 * RATE) < RATE ? 0 : v) + hiss[i])
    const level = noiseOf(profile(words), null)
    // The hiss: 0.002 / √3 of mean power; the words stand in two thirds of the time.
    const square = (x: Float32Array) => x.reduce((s, v) => s + v * v, 0) / x.length
    const wanted = 10 * Math.log10(square(hiss) / square(words))
    expect(level).not.toBeNull()
    expect(Math.abs((level ?? 0) - wanted)).toBeLessThan(1.5)
    expect(noiseOf(profile(whiteNoise(SECONDS * RATE, 7, 0.2)), null)).toBeNull()
  })

  it('is refused under eight seconds and for silence', () => {
    expect(() => profile(babble(1).subarray(0, 7 * RATE))).toThrow(/needs at least 8 s.*7\.0 s/)
    expect(() => profile(new Float32Array(9 * RATE))).toThrow(/silence/)
  })

  it('comes back from its file, and nothing else does', () => {
    const made = measureProfile(mono(babble(8)), { name: 'Quay', tags: ['warm'], words: 'A hall.' })
    const back = parseProfile(writeProfile(made))
    expect(back.name).toBe('Quay')
    expect(back.tags).toEqual(['warm'])
    back.twelfths.meanDb.forEach((v, i) => {
      expect(v).toBeCloseTo(made.twelfths.meanDb[i], 2)
    })
    const broken = JSON.parse(writeProfile(made))
    expect(() => parseProfile(JSON.stringify({ ...broken, extra: 1 }))).toThrow(/cannot be read/)
    broken.thirds.meanDb.pop()
    expect(() => parseProfile(JSON.stringify(broken))).toThrow(/thirds\.meanDb/)
  })

  it('merges into one target: mean and standard deviation at equal loudness', () => {
    const base = profile(babble(9))
    const louder = (db: number, tilt: number): Profile => ({
      ...base,
      loudness: { ...base.loudness, integratedLufs: base.loudness.integratedLufs + db },
      twelfths: {
        ...base.twelfths,
        meanDb: base.twelfths.meanDb.map((v) => Math.max(-200, v + db + tilt)),
      },
    })
    const merged = mergeProfiles([louder(0, 1), louder(6, -1), louder(-3, 3)], { name: 'all' })
    // Deviations of 1, -1 and 3 dB: mean 1, standard deviation of the sample 2.
    expect(merged.recordings).toBe(3)
    expect(merged.twelfths.spreadDb[60]).toBeCloseTo(2, 6)
    expect(merged.twelfths.meanDb[60]).toBeCloseTo(base.twelfths.meanDb[60] + 1 + 1, 6)
    expect(mergeProfiles([base], { name: 'one' }).twelfths).toEqual(base.twelfths)
    expect(() => mergeProfiles([], { name: 'none' })).toThrow(/at least one/)
  })
})

describe('decay', () => {
  it.each([0.2, 0.5, 1.1, 2.2])('of a synthetic room of %d s is found within 10 %', (seconds) => {
    const gap = 0.2 + 0.5 * seconds
    const period = Math.round((0.4 + gap) * RATE)
    const noise = whiteNoise(Math.round(5 * period), Math.round(100 * seconds), 0.5)
    let gain = 0
    const fall = 10 ** (-3 / (seconds * RATE))
    const signal = noise.map((v, i) => {
      gain = i % period < 0.4 * RATE ? 1 : gain * fall
      return v * gain
    })
    const meter = new DecayMeter(RATE)
    meter.add([signal])
    expect(Math.abs((meter.read() ?? 0) / seconds - 1)).toBeLessThan(0.1)
  })

  it('is not told of a sound that never stops', () => {
    const meter = new DecayMeter(RATE)
    meter.add([whiteNoise(5 * RATE, 1, 0.3)])
    expect(meter.read()).toBeNull()
  })
})

describe('a match', () => {
  it.each([1, 2, 3, 4])('finds a known correction back (%d)', (seed) => {
    const random = seededRandom(seed)
    const bands = Array.from({ length: 4 }, (_, i): EqBand => {
      const db = 16 * random() - 8
      if (i === 0) return { ...bell, type: 'low-shelf', hz: 150 + 100 * random(), db, q: 0.7 }
      if (i === 1) return { ...bell, type: 'high-shelf', hz: 2500 + 2000 * random(), db, q: 0.7 }
      return { ...bell, hz: 200 * 2 ** (4 * random()), db, q: 0.6 + 1.4 * random() }
    })
    const source = babble(seed + 20)
    const [from, to] = [profile(source), profile(filtered(source, bands))]
    const truth = TWELFTHS.map(({ hz }) => bands.reduce((sum, b) => sum + analogueDb(b, hz), 0))
    const open = { ...USUAL_CORRECTION, mostBoostDb: 24, mostCutDb: 24 }
    const pair = pairOf(from, to)
    const wanted = correctionOf(pair, open, zeroOf(pair, open))
    expect(rmsApart(wanted, truth, pair.weight)).toBeLessThan(0.5)
    const six = matchByBands(from, to, open, 6)
    expect(six.bands.length).toBeLessThanOrEqual(6)
    expect(rmsApart(six.givenDb, truth, pair.weight)).toBeLessThan(1)
  })

  it('of a thing to itself is nothing, however loud it is', () => {
    const source = babble(30)
    const made = matchByBands(
      profile(source),
      profile(source.map((v) => 0.3 * v)),
      USUAL_CORRECTION,
    )
    expect(made.bands).toEqual([])
    expect(made.rmsErrorDb).toBeLessThan(0.05)
    expect(made.notMatched).toEqual([])
  })

  it('takes one band for one band', () => {
    const source = babble(31)
    const cut = { ...bell, hz: 700, db: -6, q: 1 }
    const { bands } = matchByBands(
      profile(source),
      profile(filtered(source, [cut])),
      USUAL_CORRECTION,
    )
    expect(bands).toHaveLength(1)
    expect(bands[0].type).toBe('bell')
    expect(Math.abs(Math.log2(bands[0].hz / 700))).toBeLessThan(0.1)
    expect(bands[0].db).toBeGreaterThan(-7)
    expect(bands[0].db).toBeLessThan(-5)
  })

  it('holds ceilings, span and amount', () => {
    const source = babble(32)
    const [from, to] = [
      profile(source),
      profile(filtered(source, [{ ...bell, hz: 400, db: 14, q: 0.7 }])),
    ]
    const pair = pairOf(from, to)
    const zero = zeroOf(pair, USUAL_CORRECTION)
    const held = { ...USUAL_CORRECTION, mostBoostDb: 4, mostCutDb: 2 }
    const curve = correctionOf(pair, held, zero)
    expect(Math.max(...curve)).toBe(4)
    expect(Math.min(...curve)).toBeGreaterThanOrEqual(-2)
    const narrow = correctionOf(pair, { ...USUAL_CORRECTION, fromHz: 1000, toHz: 4000 }, zero)
    for (const [i, { hz }] of TWELFTHS.entries()) {
      if (hz < 1000 || hz > 4000) expect(narrow[i]).toBeCloseTo(0, 9)
    }
    const half = correctionOf(pair, { ...USUAL_CORRECTION, amount: 0.5 }, zero)
    const whole = correctionOf(pair, { ...USUAL_CORRECTION, mostBoostDb: 24 }, zero)
    for (const [i, v] of half.entries()) expect(v).toBeCloseTo(whole[i] / 2, 6)
  })

  it('leaves alone what is only noise in one of the two', () => {
    const hiss = whiteNoise(SECONDS * RATE, 40, 0.003)
    const gaps = (x: Float32Array) => x.map((v, i) => (i % (3 * RATE) < RATE ? 0 : v))
    const words = gaps(
      filtered(babble(41), [{ ...bell, type: 'high-cut', hz: 2000, slopeDbPerOct: 96 }]),
    )
    const noisy = profile(words.map((v, i) => v + hiss[i]))
    const clean = profile(gaps(babble(41)))
    const { weight } = pairOf(noisy, clean)
    const at = (hz: number) => TWELFTHS.findIndex((b) => b.toHz > hz)
    expect(weight[at(700)]).toBe(1)
    expect(weight[at(7000)]).toBe(0)
    const { givenDb } = matchByBands(noisy, clean, USUAL_CORRECTION)
    expect(Math.abs(givenDb[at(700)])).toBeLessThan(1)
  })

  it('says what no equaliser can match, and only that', () => {
    const base = profile(babble(50))
    const other: Profile = {
      ...base,
      decaySeconds: 0.9,
      loudness: { ...base.loudness, rangeLu: (base.loudness.rangeLu ?? 0) + 6 },
    }
    expect(notMatched(base, base)).toEqual([])
    const found = notMatched({ ...base, decaySeconds: 0.3 }, other)
    expect(found.map((n) => n.what)).toEqual(['room', 'dynamics'])
    expect(found[0]).toEqual({ what: 'room', from: 0.3, to: 0.9, unit: 's' })
  })

  it('tells noise against what has none, as far as that is known', () => {
    // Ten sounds of 0.6 s with tails of different lengths, as no noise has, and pauses of nothing.
    const dry = Float32Array.from(babble(53), (v, i) => {
      const at = (i / RATE) % 0.9
      const tail = 0.05 + 0.01 * Math.floor(i / RATE / 0.9)
      return at < 0.3 ? v + 0.05 * Math.sin(i) : at < 0.7 ? v * 10 ** (-(at - 0.3) / tail) : 0
    })
    const hiss = whiteNoise(dry.length, 54, 0.002)
    const [clean, noisy] = [profile(dry), profile(dry.map((v, i) => v + hiss[i]))]
    expect(clean.thirds.noiseDb).toBeNull()
    const planted = noiseOf(noisy, null) ?? 0
    const wanted = 10 * Math.log10(power(hiss) / power(dry))
    expect(planted).toBeGreaterThan(wanted - 1.5)
    expect(planted).toBeLessThan(wanted + 1.5)
    const told = { what: 'noise', unit: 'dB' }
    expect(notMatched(clean, noisy)).toEqual([expect.objectContaining({ ...told, atMost: 'from' })])
    expect(notMatched(noisy, clean)).toEqual([expect.objectContaining({ ...told, atMost: 'to' })])
    // Where neither is known nothing is said; a profile of before this figure was kept is such a one.
    const { quietDb: _, ...thirds } = clean.thirds
    const older = parseProfile(JSON.stringify({ ...JSON.parse(writeProfile(clean)), thirds }))
    expect(notMatched(older, noisy)).toEqual([])
    expect(notMatched(clean, clean)).toEqual([])
  })

  it('keeps the loudness that it reads', () => {
    const source = babble(51)
    const boost = { ...bell, hz: 500, db: 6, q: 0.7 }
    const [before, after] = [profile(source), profile(filtered(source, [boost]))]
    const gains = TWELFTHS.map(({ hz }) => analogueDb(boost, hz))
    const wanted = after.loudness.integratedLufs - before.loudness.integratedLufs
    expect(loudnessChange(before.twelfths.meanDb, gains)).toBeCloseTo(wanted, 0)
  })
})

describe('bands fitted to a curve', () => {
  const settings = {
    most: 12,
    withinDb: 0.3,
    mostBoostDb: 12,
    mostCutDb: 12,
    fromHz: 20,
    toHz: 20_000,
  }
  const even = TWELFTHS.map(() => 1)

  it('takes none for a constant, whatever it is', () => {
    const made = fitBands(
      TWELFTHS.map(() => 5),
      even,
      settings,
    )
    expect(made.bands).toEqual([])
    expect(made.zeroDb).toBeCloseTo(5, 9)
  })

  it('takes none where nothing has weight', () => {
    expect(
      fitBands(
        TWELFTHS.map((_, i) => i),
        TWELFTHS.map(() => 0),
        settings,
      ).bands,
    ).toEqual([])
  })

  it('takes no two bands that do one thing between them', () => {
    const random = seededRandom(11)
    for (let n = 0; n < 12; n++) {
      const [at, wide, high] = [2 + 5 * random(), 0.3 + random(), 3 + 6 * random()]
      // Neither a bell nor a shelf: a table with steep sides, over a ripple.
      const wanted = TWELFTHS.map(({ hz }) => {
        const octave = Math.log2(hz / 30)
        return high / (1 + ((octave - at) / wide) ** 8) + 0.4 * Math.sin(3 * octave)
      })
      const bands = fitBands(wanted, even, { ...settings, most: 6 }).bands
      for (const [k, a] of bands.entries()) {
        for (const b of bands.slice(0, k)) {
          const isNear = Math.abs(Math.log2(a.hz / b.hz)) < 0.3
          const isAsWide = Math.max(a.q / b.q, b.q / a.q) < 1.9
          expect(a.type === b.type && a.db * b.db > 0 && isNear && isAsWide).toBe(false)
        }
      }
    }
  })

  it('comes as near as it says', () => {
    const wanted = TWELFTHS.map(({ hz }) => 5 * Math.sin(2 * Math.log2(hz)))
    const { bands, givenDb, zeroDb, rmsErrorDb } = fitBands(wanted, even, { ...settings, most: 6 })
    const left = wanted.map((v, i) => v - givenDb[i] - zeroDb)
    const rms = Math.sqrt(left.reduce((s, v) => s + v * v, 0) / left.length)
    expect(rmsErrorDb).toBeCloseTo(rms, 6)
    expect(bands).toHaveLength(6)
    expect(bands.every((b) => Math.abs(b.db) <= 12)).toBe(true)
  })
})

describe('a pair of published responses', () => {
  const flat = [20, 200, 2000, 20_000].map((hz) => ({ hz, db: 0 }))

  it('is answered by bands that lead from one to the other', () => {
    const bump = { ...bell, hz: 900, db: 5, q: 0.8 }
    const to = Array.from({ length: 60 }, (_, i) => {
      const hz = 20 * 1000 ** (i / 59)
      return { hz, db: analogueDb(bump, hz) }
    })
    const { byBands } = responseWays(pairOfResponses(flat, to), {
      ...USUAL_CORRECTION,
      smoothing: 1 / 6,
    })
    const { bands, rmsErrorDb, notMatched: stays } = byBands[1]
    expect(bands).toHaveLength(1)
    expect(Math.abs(Math.log2(bands[0].hz / 900))).toBeLessThan(0.05)
    expect(bands[0].db).toBeCloseTo(5, 0)
    expect(rmsErrorDb).toBeLessThan(0.3)
    expect(stays).toEqual([])
  })

  it('may be any two that were invented to try it with, as their files are read', () => {
    for (const from of INVENTED_RESPONSES) {
      expect(parseCurveCsv(writeCurveCsv(from.points))).toEqual(from.points)
      for (const to of INVENTED_RESPONSES) {
        const { weight } = pairOfResponses(from.points, to.points)
        // At least the seven octaves from 100 Hz on.
        expect(weight.filter((w) => w > 0).length).toBeGreaterThan(7 * 12)
      }
    }
  })

  it('counts only where both tell something', () => {
    const narrow = [100, 400, 5000].map((hz) => ({ hz, db: 3 }))
    const { weight } = pairOfResponses(flat, narrow)
    TWELFTHS.forEach(({ hz }, i) => {
      expect(weight[i]).toBe(hz >= 100 && hz <= 5000 ? 1 : 0)
    })
    expect(() => pairOfResponses(flat, narrow.slice(0, 2))).toThrow(/3 points/)
    const high = [9000, 12_000, 15_000].map((hz) => ({ hz, db: 0 }))
    expect(() => pairOfResponses(narrow, high)).toThrow(/no octave in common/)
  })
})

describe('one long filter', () => {
  const curve = (hz: number) => 6 / (1 + (hz / 700) ** 2) - 5 / (1 + (3000 / hz) ** 2)

  it.each(['minimum', 'mixed', 'linear'] as const)('holds the curve in %s phase', (phase) => {
    const { taps, latency } = matchFir(curve, 4096, phase, 48_000)
    const db = firMagnitudeDb(taps, 16_384)
    for (let hz = 40; hz < 20_000; hz *= 1.1) {
      const k = Math.round((hz * 16_384) / 48_000)
      expect(Math.abs(db[k] - curve((k * 48_000) / 16_384))).toBeLessThan(0.2)
    }
    if (phase === 'minimum') expect(latency).toBe(0)
    if (phase === 'mixed') expect(latency).toBe(240)
    if (phase === 'linear') expect(latency).toBeGreaterThan(2000)
  })
})
