import { type Clip, makeClip, type Random } from '@sober-prism/core/audio'
import type { Role } from '@sober-prism/core/session'
import { addInto, RATE_HZ } from '@sober-prism/demo'
import { type Instrument, play, type Stroke, speak } from './players'
import {
  bassLine,
  broken,
  comped,
  drumBeat,
  held,
  type KitPiece,
  line,
  phraseStarts,
  pick,
  type Song,
} from './song'

/** A recording of one part, before anything is done to it. */
export interface Part {
  readonly name: string
  readonly role: Role
  /** -1 left to 1 right; a stereo recording stays where it is. */
  readonly pan: number
  readonly isLead: boolean
  readonly clip: Clip
}

/** Who plays: one set of samples and voices sets constants, another judges them. */
export interface Players {
  readonly font: string
  readonly voices: readonly string[]
  readonly programs: Readonly<Record<Group, readonly number[]>>
}

type Group = 'piano' | 'keys' | 'organ' | 'guitar' | 'electric' | 'bass' | 'bow' | 'choir' | 'wind'

/** Bands without a sample or a voice in common. Programs as in General MIDI, from 0. */
export const BANDS: Readonly<Record<'tuning' | 'judging' | 'third', Players>> = {
  tuning: {
    font: 'FluidR3_GM.sf2',
    voices: ['en-gb', 'en-us+f2', 'en-gb+m3', 'en-us'],
    programs: {
      piano: [0, 3],
      keys: [4, 11],
      organ: [16, 21],
      guitar: [24],
      electric: [26, 29],
      bass: [33, 34],
      bow: [48, 40],
      choir: [52],
      wind: [56, 65, 73],
    },
  },
  judging: {
    font: 'TimGM6mb.sf2',
    voices: ['flite:slt', 'flite:rms', 'flite:awb'],
    programs: {
      piano: [1, 2],
      keys: [5, 12],
      organ: [18, 22],
      guitar: [25],
      electric: [27, 30],
      bass: [32, 35],
      bow: [49, 42],
      choir: [53],
      wind: [57, 66, 71],
    },
  },
  third: {
    font: 'sf_GMbank.sf2',
    voices: ['flite:kal16', 'flite:awb_time', 'en-us+f4', 'en-gb-scotland'],
    programs: {
      piano: [0, 1],
      keys: [4, 6],
      organ: [17, 19],
      guitar: [24],
      electric: [27, 28],
      bass: [33, 36],
      bow: [44, 48],
      choir: [52],
      wind: [60, 64, 68],
    },
  },
}

export const SENTENCES = [
  'Bring the lanterns down to the water before the evening boat comes in.',
  'Nobody told the harbour master that the bell had gone to sea.',
  'Seven slow waves and a silver morning, and the kettle still warm.',
  'Write my name upon the gate, and leave a candle burning there.',
  'The long road turns beside the mill where all the sparrows go.',
  'Give me half of what you promised and I will bring it back tomorrow.',
] as const

/** Eight recordings: a kit, a bass and a lead, and what comes together in this seed. */
export function eightParts(players: Players, song: Song, random: Random): Part[] {
  const make = maker(players, song, random)
  const beds = [
    () => make.chords('Piano', 'keys', 'piano', comped, 48, 79, 0),
    () => make.chords('Strings', 'strings', 'bow', held, 48, 84, 0),
    () => make.chords('Acoustic guitar', 'guitar', 'guitar', broken, 45, 76, -0.5),
    () => make.chords('Electric guitar', 'guitar', 'electric', comped, 45, 72, 0.5),
    () => make.chords('Organ', 'keys', 'organ', held, 48, 76, 0.3),
    () => make.chords('Choir', 'voice', 'choir', held, 52, 76, 0),
    () => make.chords('Electric piano', 'keys', 'keys', broken, 50, 80, -0.3),
    () => make.line('Horn', 'winds', 'wind', 55, 79, 0.4),
  ]
  const chosen = beds
    .map((bed) => ({ bed, order: random() }))
    .sort((a, b) => a.order - b.order)
    .slice(0, 5)
  const lead =
    random() < 0.7
      ? make.voice('Voice', true, 0)
      : { ...make.line('Lead', 'winds', 'wind', 60, 84, 0), isLead: true }
  return [make.kit('Drums'), make.bass('Bass'), lead, ...chosen.map(({ bed }) => bed())]
}

/** Twenty-four recordings: a kit through its microphones, doubled guitars, keys, strings, winds, voices. */
export function manyParts(players: Players, song: Song, random: Random): Part[] {
  const make = maker(players, song, random, true)
  return [
    make.piece('Kick', 'kick', 0),
    make.piece('Snare', 'snare', 0),
    make.piece('Hats', 'hats', 0.3),
    make.piece('Toms', 'toms', -0.2),
    make.kit('Overheads'),
    make.piece('Hands', 'hands', -0.6),
    make.bass('Bass'),
    make.chords('Acoustic left', 'guitar', 'guitar', broken, 45, 76, -0.8),
    make.chords('Acoustic right', 'guitar', 'guitar', comped, 45, 76, 0.8),
    make.chords('Electric left', 'guitar', 'electric', comped, 45, 70, -0.7),
    make.chords('Electric right', 'guitar', 'electric', comped, 45, 70, 0.7),
    make.line('Electric lead', 'guitar', 'electric', 57, 79, 0.2),
    make.chords('Piano', 'keys', 'piano', comped, 48, 84, 0),
    make.chords('Electric piano', 'keys', 'keys', broken, 50, 80, 0.4),
    make.chords('Organ', 'keys', 'organ', held, 48, 76, -0.3),
    make.chords('High strings', 'strings', 'bow', held, 60, 91, -0.3),
    make.chords('Low strings', 'strings', 'bow', held, 40, 62, 0.3),
    make.line('Trumpet', 'winds', 'wind', 58, 80, 0.5),
    make.line('Saxophone', 'winds', 'wind', 52, 75, -0.5),
    make.line('Flute', 'winds', 'wind', 67, 91, 0.2),
    make.voice('Voice', true, 0),
    make.voice('Second voice', false, 0.3),
    make.chords('Choir high', 'voice', 'choir', held, 60, 79, -0.4),
    make.chords('Choir low', 'voice', 'choir', held, 45, 62, 0.4),
  ]
}

type Style = (song: Song, random: Random, low: number, high: number) => Stroke[]

/** Makes one part after another; each takes another program of its group, as long as there are some. */
function maker(
  { font, voices, programs }: Players,
  song: Song,
  random: Random,
  takesTurns = false,
) {
  /** Of many players most rest in one half of the song or the other. */
  const inTurn = (strokes: Stroke[]) => {
    const half = Math.floor(3 * random())
    if (!takesTurns || half === 2) return strokes
    return strokes.filter((s) => s.seconds < song.seconds / 2 === (half === 0))
  }
  const taken = new Map<Group, number>()
  const instrument = (group: Group): Instrument => {
    const of = programs[group]
    const before = taken.get(group) ?? Math.floor(of.length * random())
    taken.set(group, before + 1)
    return { font, program: of[before % of.length], room: random() < 0.6 }
  }
  const beat = drumBeat(song, random)
  const kit: Instrument = { font, program: 0, kit: true, room: true }
  const part = (name: string, role: Role, clip: Clip, pan: number): Part => ({
    name,
    role,
    pan,
    isLead: false,
    clip,
  })
  return {
    chords: (
      name: string,
      role: Role,
      group: Group,
      style: Style,
      low: number,
      high: number,
      pan: number,
    ) =>
      part(
        name,
        role,
        sided(play(instrument(group), inTurn(style(song, random, low, high)), song.seconds), pan),
        pan,
      ),
    line: (name: string, role: Role, group: Group, low: number, high: number, pan: number) =>
      part(
        name,
        role,
        mono(play(instrument(group), inTurn(line(song, random, low, high)), song.seconds)),
        pan,
      ),
    bass: (name: string) =>
      part(
        name,
        'bass',
        mono(play(instrument('bass'), bassLine(song, random, 28), song.seconds)),
        0,
      ),
    piece: (name: string, of: KitPiece, pan: number) =>
      part(name, 'drums', mono(play({ ...kit, room: false }, beat[of], song.seconds)), pan),
    kit: (name: string) => {
      const all = [...beat.kick, ...beat.snare, ...beat.hats, ...beat.toms, ...beat.cymbals]
      return part(name, 'drums', play(kit, all, song.seconds), 0)
    },
    voice: (name: string, isLead: boolean, pan: number): Part => {
      const voice = pick(random, voices)
      const [speed, pitch] = [135 + Math.round(40 * random()), 35 + Math.round(30 * random())]
      const sound = new Float32Array(Math.round(song.seconds * RATE_HZ))
      let until = 0
      for (const start of phraseStarts(song)) {
        const sentence = speak(voice, pick(random, SENTENCES), speed, pitch)
        if (start < until) continue
        addInto(sound, sentence.channels[0], 1, Math.round(start * RATE_HZ))
        until = start + sentence.frames / RATE_HZ
      }
      return { ...part(name, 'voice', makeClip(RATE_HZ, [sound]), pan), isLead }
    },
  }
}

/** In the middle a recording keeps both its sides; elsewhere it is one that is panned. */
function sided(clip: Clip, pan: number): Clip {
  return pan === 0 ? clip : mono(clip)
}

function mono({ channels: [left, right], sampleRateHz }: Clip): Clip {
  return makeClip(sampleRateHz, [left.map((v, i) => (v + right[i]) / 2)])
}
