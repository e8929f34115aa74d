import { type Clip, makeClip } from '@sober-prism/core/audio'
import { type ClipTrack, proposeLevels, WORKING_LUFS } from '@sober-prism/core/findings'
import { panGains } from '@sober-prism/core/mix'
import { emptySession, newTrack } from '@sober-prism/core/session'
import { longTermPower } from '@sober-prism/core/spectrum'
import { type Planted, partRandom, RATE_HZ } from '@sober-prism/demo'
import { THIRDS } from './fault-measures'
import { gatedLoudness, plantFaults } from './faults'
import { BANDS, eightParts, manyParts, type Part } from './parts'
import { makeSong } from './song'

/** A session as an engineer has it after the working levels: names, faders, and the faults that were put in. */
export interface RealSession {
  readonly seed: number
  readonly tracks: readonly (ClipTrack & { readonly name: string })[]
  readonly table: readonly Planted[]
}

export interface RealOptions {
  readonly band: keyof typeof BANDS
  readonly seed: number
  /** Eight tracks or so, or two dozen. */
  readonly many: boolean
  /** Finished mixes of the same players that faults of the whole are held against; null plants none. */
  readonly against: readonly Clip[] | null
}

const SECONDS = 24

/** Makes a session of sampled instruments and synthetic voices; the same options, the same sound. */
export function realSession({ band, seed, many, against }: RealOptions): RealSession {
  const song = makeSong(partRandom(seed, 'song'), SECONDS)
  const arrange = many ? manyParts : eightParts
  const parts = levelled(arrange(BANDS[band], song, partRandom(seed, 'parts')))
  const faders = fadersOf(parts)
  if (!against) return { seed, table: [], tracks: atFaders(parts, faders) }
  // Faders stand where they stood before faults were put in.
  const usual = against.map((mix) => longTermPower(mix, THIRDS))
  const random = partRandom(seed, 'faults')
  const { parts: faulty, table } = plantFaults(parts, faders, usual, random)
  return { seed, table, tracks: atFaders(faulty, fadersOf(faulty)) }
}

/** A finished recording by other players of the band: a clean session of another seed, mixed. */
export function realReference(band: RealOptions['band'], seed: number): Clip {
  const { tracks } = realSession({ band, seed, many: false, against: null })
  const sides = [0, 1].map(() => new Float32Array(tracks[0].clip.frames))
  for (const { clip, gainDb } of tracks) {
    const gain = 10 ** (gainDb / 20)
    sides.forEach((side, s) => {
      const channel = clip.channels[s] ?? clip.channels[0]
      for (let i = 0; i < side.length; i++) side[i] += gain * channel[i]
    })
  }
  return makeClip(tracks[0].clip.sampleRateHz, sides)
}

/** All at one loudness before faults are put in, so that a fault does not turn the rest of its track down. */
function levelled(parts: readonly Part[]): Part[] {
  return parts.map((part) => {
    const gain = 10 ** ((WORKING_LUFS - gatedLoudness(part.clip)) / 20)
    return { ...part, clip: scaledClip(part.clip, () => gain) }
  })
}

/** Faders of the rough balance that the app proposes, in dB. */
function fadersOf(parts: readonly Part[]): number[] {
  const session = emptySession('real', 'real', '2026-01-01T00:00:00.000Z', RATE_HZ)
  parts.forEach(({ name, role, isLead, clip }, i) => {
    const audio = { hash: String(i), channels: clip.channels.length, frames: clip.frames }
    session.tracks.push(newTrack(String(i), name, role, String(i), audio))
    if (isLead) session.leadIds.push(String(i))
  })
  const levels = proposeLevels(session, new Map(parts.map((_, i) => [String(i), WORKING_LUFS])))
  return levels.map((l) => l.faderDb)
}

function atFaders(parts: readonly Part[], faders: readonly number[]): RealSession['tracks'] {
  return parts.map(({ name, role, isLead, pan, clip }, i) => ({
    id: String(i),
    name,
    role,
    isLead,
    gainDb: faders[i],
    clip: panned(clip, pan),
  }))
}

function panned(clip: Clip, pan: number): Clip {
  if (pan === 0) return clip
  const gains = panGains(pan, 1)
  const [channel] = clip.channels
  return makeClip(
    clip.sampleRateHz,
    gains.map((gain) => channel.map((v) => v * gain)),
  )
}

function scaledClip(clip: Clip, gainOf: (side: number) => number): Clip {
  return makeClip(
    clip.sampleRateHz,
    clip.channels.map((c, side) => c.map((v) => v * gainOf(side))),
  )
}
